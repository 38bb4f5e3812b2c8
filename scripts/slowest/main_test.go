package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAFailureIsShownWithItsWordsAndCounts(t *testing.T) {
	var says strings.Builder
	good := report(strings.NewReader(`{"Action":"output","Package":"p","Test":"A","Output":"quiet\n"}
{"Action":"pass","Package":"p","Test":"A","Elapsed":2}
{"Action":"output","Package":"p","Test":"B","Output":"1 is not 2\n"}
{"Action":"fail","Package":"p","Test":"B","Elapsed":3.5}
{"Action":"output","Package":"p","Output":"FAIL\tp\t5.5s\n"}
{"Action":"fail","Package":"p","Elapsed":5.5}
`), &says)
	assert.False(t, good)
	assert.Equal(
		t,
		"1 is not 2\nFAIL\tp\t5.5s\n== the slowest packages\n     5.5 s  p\n== the slowest tests\n     3.5 s  p B\n "+
			"    2.0 s  p A\n",
		says.String(),
	)
}

func TestWhatDoesNotBuildFails(t *testing.T) {
	var says strings.Builder
	assert.False(t, report(strings.NewReader(`{"ImportPath":"p","Action":"build-output","Output":"undefined: x\n"}
{"ImportPath":"p","Action":"build-fail"}
`), &says))
	assert.Contains(t, says.String(), "undefined: x")
	assert.True(t, report(strings.NewReader(`{"Action":"output","Package":"p","Output":"ok  \tp\t1s\n"}
{"Action":"pass","Package":"p","Elapsed":1}
`), &says))
}
