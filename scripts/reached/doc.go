// Command reached lists the packages that the changes of the working tree reach, for ./test quick.
//
// It asks git what differs from the last commit and go list who imports it, directly or by others, tests included.
// Changed pages reach the package that embeds them. core is always on the list.
//
// A file of a folder that is no package (SQL, test data) counts for the nearest package above it; one that lies in
// none, such as a page of docs, reaches nothing. What a test of another package reads at run time is not seen: the
// whole ./test is for that.
package main
