// Package calctest holds documents against their schemas in tests.
package calctest
