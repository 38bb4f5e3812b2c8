// Package master is the one document of a part from which everything is
// derived: its outlines, its stages with their items in lay order, the
// parameters of a family. It is the one package of the core whose types have
// names in JSON: the document is itself what is kept, exchanged and published.
//
// Lengths are in m, angles in degrees (it is people who read and write the
// document), masses in kg. Ply 1 lies on the tool.
//
// A [Document] is what is kept (column revisions.doc), exchanged as a file and sent to the
// page: its types carry their JSON names and are the published schema. Names in JSON stay as
// they are when a Go name changes, or released revisions and files could not be read.
//
//   - [AnalysisInput] is a document with the materials, rules and surfaces that it is worked
//     out from; Analyse gives zones, findings, mass, stresses, section and what-if.
//   - Items have keys for good: differences, merges, findings and waivers go by them, numbers
//     follow from the order. [Merge] merges drafts item by item, three ways.
//   - Flats of stages that are rolled on a mandrel (core/rolled) or laid over a surface
//     (core/drape) are derived by Document.Derived whenever a draft is stored or asked about,
//     and kept in the document, so that a released revision is cut as it was released. One
//     that was changed by hand stays and says so.
//   - What a zone comes to follows from the angles that lie at its place (lying.go); the rules
//     of a stack are held against what is drawn.
//   - An operation may have settings of its own ([Debulks], [Closing], [Heat]: settings.go);
//     what it does not set is that of the revision's process.
package master
