package layup

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAJoinTakesEachOfItsPreFormsOnce(t *testing.T) {
	forms := []Form{{"F-1", "Top", true, false}, {"F-2", "Bottom", true, false}}
	assert.Nil(t, Joined(forms, []string{"F-2", "F-1"}), "in any order")
	assert.Nil(t, Joined(nil, nil))
	early, spent := []Form{forms[0], {"F-2", "Bottom", false, false}}, []Form{forms[0], {"F-2", "Bottom", true, true}}
	for says, c := range map[string]struct {
		forms   []Form
		scanned []string
	}{
		"scan the label of Bottom (F-2)":           {forms, []string{"F-1"}},
		"F-9 is no pre-form of this join":          {forms, []string{"F-1", "F-9"}},
		"F-1, Top, is scanned already":             {forms, []string{"F-1", "F-1"}},
		"F-2, Bottom, is not laid yet":             {early, []string{"F-1", "F-2"}},
		"the out-life of F-2, Bottom, is spent: a": {spent, []string{"F-2", "F-1"}},
	} {
		r := Joined(c.forms, c.scanned)
		require.NotNil(t, r, says)
		assert.Contains(t, r.Says, says)
	}
}
