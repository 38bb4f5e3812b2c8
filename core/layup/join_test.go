package layup

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAJoinTakesEachOfItsPreFormsOnce(t *testing.T) {
	forms := []Form{{Code: "F-1", Name: "Top", Laid: true}, {Code: "F-2", Name: "Bottom", Laid: true}}
	assert.Nil(t, CheckJoin(forms, []string{"F-2", "F-1"}), "in any order")
	assert.Nil(t, CheckJoin(nil, nil))
	early := []Form{forms[0], {Code: "F-2", Name: "Bottom"}}
	spent := []Form{forms[0], {Code: "F-2", Name: "Bottom", Laid: true, Over: "its tack life ended 2 h ago"}}
	let := []Form{forms[0], spent[1]}
	let[1].Let = true
	assert.Nil(t, CheckJoin(let, []string{"F-1", "F-2"}), "quality has decided")
	for says, c := range map[string]struct {
		forms   []Form
		scanned []string
	}{
		"scan the label of Bottom (F-2)":                                        {forms, []string{"F-1"}},
		"F-9 is no pre-form of this join":                                       {forms, []string{"F-1", "F-9"}},
		"F-1, Top, is scanned already":                                          {forms, []string{"F-1", "F-1"}},
		"F-2, Bottom, is not laid yet":                                          {early, []string{"F-1", "F-2"}},
		"F-2, Bottom, is past its life: its tack life ended 2 h ago. A quality": {spent, []string{"F-2", "F-1"}},
	} {
		r := CheckJoin(c.forms, c.scanned)
		require.NotNil(t, r, says)
		assert.Contains(t, r.Message, says)
	}
}
