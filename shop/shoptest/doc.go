// Package shoptest makes what tests and benchmarks of several floors need.
package shoptest
