package layup

import "slices"

// Form is a pre-form as a join asks for it.
type Form struct {
	Code string // its label
	Name string
	Laid bool   // its last ply is laid
	Over string // why it is too old to be joined; empty: it is not
	Let  bool   // quality lets it be joined all the same
}

// CheckLabel says why a label cannot be joined here now, or nil. Taken are the labels that
// were scanned before it.
func CheckLabel(forms []Form, taken []string, label string) *Refusal {
	k := slices.IndexFunc(forms, func(f Form) bool { return f.Code == label })
	switch {
	case k < 0:
		return forbidden("%s is no pre-form of this join", label)
	case slices.Contains(taken, label):
		return late("%s, %s, is scanned already: one label lies twice, or was scanned twice", label, forms[k].Name)
	case !forms[k].Laid:
		return forbidden("%s, %s, is not laid yet", label, forms[k].Name)
	case forms[k].Over != "" && !forms[k].Let:
		return forbidden("%s, %s, is past its life: %s. A quality person has to decide",
			label, forms[k].Name, forms[k].Over)
	}
	return nil
}

// CheckJoin says why the labels that were scanned do not make the join, or nil: every
// pre-form is there once.
func CheckJoin(forms []Form, scanned []string) *Refusal {
	for k, label := range scanned {
		if r := CheckLabel(forms, scanned[:k], label); r != nil {
			return r
		}
	}
	for _, f := range forms {
		if !slices.Contains(scanned, f.Code) {
			return forbidden("scan the label of %s (%s)", f.Name, f.Code)
		}
	}
	return nil
}
