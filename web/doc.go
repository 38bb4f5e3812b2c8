// Package web embeds the pages as Vite builds them into dist, so that one binary has all of Juxta.
//
// A build of the program without the pages serves the API alone and says in a sentence that the front end is not built.
// Sources lie in src: app (session, routes, keys), ui (fields, drawings, units), contract (types made from the API),
// and a folder a room in rooms; docs/architecture.md has their order, and eslint holds it.
//
// Nothing is loaded from outside at run time: fonts, styles and scripts are in the bundle. Files of the bundle carry a
// hash of what they hold in their names, so api serves them to be kept for good, and index.html never.
package web
