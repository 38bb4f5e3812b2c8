// Package web embeds the pages as Vite builds them into dist, so that one binary has all of Juxta.
//
// A build of the program without the pages serves the API alone and says in a sentence that the front end is not built.
// Sources lie in src: app (session, routes, keys), ui (fields, drawings, units), contract (types made from the API),
// and a folder a room in rooms; docs/architecture.md has their order, and eslint holds it.
package web
