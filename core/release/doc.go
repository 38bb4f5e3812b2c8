// Package release holds a finished part against the limits of its revision.
package release
