// Command reached lists the packages that the changes of the working tree reach, for ./test quick.
//
// It asks git what differs from the last commit and go list who imports it, directly or by others, tests included.
// Changed pages reach the package that embeds them. core is always on the list.
package main
