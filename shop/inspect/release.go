package inspect

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/release"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/finish"
	"juxta/shop/parts"
)

// Room of the inspection.
type Room struct{ *finish.Room }

// ReleaseView is a build at inspection: expected beside found.
type ReleaseView struct {
	Build       builds.BuildLine      `json:"build"`
	Process     parts.Process         `json:"process"`
	Mass        release.Limit         `json:"mass" doc:"kg"`
	Thickness   release.Limit         `json:"thickness" doc:"Of the largest zone with a ply in it, m"`
	Missing     []string              `json:"missing" doc:"What the record lacks, or where it did not meet a limit"`
	Verdict     *cure.Verdict         `json:"verdict,omitempty" doc:"Of the cure run"`
	Lines       []release.ReleaseLine `json:"lines" doc:"Empty before it is signed"`
	Disposition string                `json:"disposition,omitempty"`
	Reason      string                `json:"reason,omitempty"`
	Person      string                `json:"person,omitempty"`
	At          *time.Time            `json:"at,omitempty"`
	Referred    []book.LogLine        `json:"referred" doc:"What was referred at the bench"`

	// What the sheet was made of, for whoever shows more of the build.
	Whole builds.BuildRecord `json:"-"`
	Work  finish.WorkView    `json:"-"`

	expected release.Expected
}

// ReleaseOf is the inspection sheet of a build.
func (s *Room) ReleaseOf(ctx context.Context, code string) (ReleaseView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (ReleaseView, error) { return s.ReleaseView(db, code) })
}

func (s *Room) ReleaseView(db *gorm.DB, code string) (ReleaseView, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return ReleaseView{}, err
	}
	if b.OutTime, err = s.KitOutTime(db, b); err != nil {
		return ReleaseView{}, err
	}
	var r parts.Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return ReleaseView{}, err
	}
	m, err := s.Master(db, r)
	if err != nil {
		return ReleaseView{}, err
	}
	worked, err := m.Analyse(master.WhatIf{})
	if err != nil {
		return ReleaseView{}, err
	}
	if worked == nil {
		return ReleaseView{}, book.NotNow.Errorf(
			"revision %s of %s has no plies: there is nothing to compare a part with",
			b.Letter,
			b.Number,
		)
	}
	values := make([]release.Value, len(r.Process.Inspections))
	for i, x := range r.Process.Inspections {
		values[i] = release.Value{What: x.What, Unit: x.Unit, Least: x.Least, Target: x.Target, Most: x.Most}
	}
	v := ReleaseView{
		Build:    b.BuildLine,
		Process:  r.Process,
		Missing:  []string{},
		Lines:    []release.ReleaseLine{},
		Referred: []book.LogLine{},
		expected: release.Expected{Mass: worked.Scale.Trimmed, MassTolerance: r.Process.MassTolerance,
			Thickness: worked.Thickness, ThicknessTolerance: r.Process.ThicknessTolerance, Values: values},
	}
	mass, thickness := v.expected.Limits()
	v.Mass, v.Thickness = mass, thickness
	if v.Whole, err = s.BuildRecord(db, b.Code); err != nil {
		return ReleaseView{}, err
	}
	if v.Work, err = s.WorkOf(db, b.Code); err != nil {
		return ReleaseView{}, err
	}
	whole := v.Whole
	for _, code := range whole.Runs {
		var run curing.Run
		if err := db.Where("code = ?", code).Take(&run).Error; err != nil {
			return ReleaseView{}, err
		}
		if v.Verdict == nil || v.Verdict.Met {
			v.Verdict = run.Verdict // one that did not meet a limit is what is looked at
		}
	}
	v.missing(b.RunState == "finished", b.LeakPassed)
	log, err := s.LogOf(db, b.Code)
	if err != nil {
		return ReleaseView{}, err
	}
	for _, l := range log {
		if l.What == "referred at the bench" {
			v.Referred = append(v.Referred, l)
		}
	}
	err = s.signedOff(db, b.ID, &v)
	return v, err
}

// missing says what the record lacks, or where it did not meet a limit.
func (v *ReleaseView) missing(cured, tight bool) {
	lack := func(when bool, format string, args ...any) {
		if when {
			v.Missing = append(v.Missing, fmt.Sprintf(format, args...))
		}
	}
	onePass := len(v.Whole.Lays) == 0
	// What a route asks for, its operations say below.
	lack(onePass && !cured, "no finished cure run")
	lack(v.Verdict != nil && v.Verdict.NotProven, "the cure run does not prove that every limit was met")
	lack(v.Verdict != nil && !v.Verdict.Met && !v.Verdict.NotProven, "the cure run did not meet every limit")
	lack(onePass && !tight, "no leak check that passed")
	for _, u := range v.Whole.Unmet {
		if u.Demand == layup.Hold {
			lack(true, "the hold point at ply %d is not signed as done (%s)", u.Ply, u.Text)
		} else {
			lack(true, "%s: nobody has signed that", u.Text)
		}
	}
	short := v.Whole.Layup.FilmsShort
	lack(len(short) > 0, "a film of %s is unaccounted for", builds.PlyList(short))
	lack(
		v.Build.OutTime != nil && v.Build.OutTime.Spent > v.Build.OutTime.Life,
		"the kit's out-life had run out before cure",
	)
	v.Missing = append(v.Missing, v.Work.Unsigned()...)
}

// signedOff adds what was measured and signed, if it was.
func (s *Room) signedOff(db *gorm.DB, buildID int64, v *ReleaseView) error {
	var done Release
	if err := db.Where("build_id = ?", buildID).Limit(1).Find(&done).Error; err != nil {
		return err
	}
	if done.ID != 0 {
		names, err := s.Names(db)
		if err != nil {
			return err
		}
		v.Lines, v.Disposition, v.Reason = release.WithOff(done.Lines), done.Disposition, done.Reason
		v.Person, v.At = names[done.PersonID], &done.At
	}
	return nil
}

// Measured is what inspection found.
type Measured struct {
	Mass      float64    `json:"mass" doc:"kg"`
	Thickness []float64  `json:"thickness" doc:"At each point, m" maxItems:"50"`
	Values    []*float64 `json:"values,omitempty" doc:"Of the process's inspections in their order, in their units; null: not measured" maxItems:"60"`
}

// Disposition is a signed decision on a build.
type Disposition struct {
	Measured
	Disposition string `json:"disposition" enum:"good,refer,scrap"`
	Reason      string `json:"reason,omitempty" maxLength:"500"`
	PIN         string `json:"pin" maxLength:"12" doc:"Of who signs"`
}

// Compare holds measurements against the limits without storing anything.
func (s *Room) Compare(ctx context.Context, code string, m Measured) ([]release.ReleaseLine, error) {
	v, err := s.ReleaseOf(ctx, code)
	if err != nil {
		return nil, err
	}
	return v.compare(m)
}

func (v ReleaseView) compare(m Measured) ([]release.ReleaseLine, error) {
	lines, err := release.Compare(v.expected, release.Measured(m))
	if err != nil {
		return nil, book.Unreadable.At("mass", "%s", err)
	}
	return lines, nil
}

// Dispose signs what becomes of a build.
func (s *Room) Dispose(ctx context.Context, by book.By, code string, in Disposition) (ReleaseView, error) {
	by, err := s.Signed(ctx, by, book.InspectPart, in.PIN)
	if err != nil {
		return ReleaseView{}, err
	}
	in.PIN = ""
	return book.Write(ctx, s.Book, by, book.InspectPart, "dispose "+code, in, func(tx *book.Tx) (ReleaseView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return ReleaseView{}, err
		}
		v, err := s.ReleaseView(tx.DB, b.Code)
		if err != nil {
			return ReleaseView{}, err
		}
		switch b.Room {
		case "finished":
			return ReleaseView{}, book.Done.Errorf("%s already signed this part: %s", v.Person, v.Disposition)
		case "release":
			if err := b.ToRelease(); err != nil {
				return ReleaseView{}, err
			}
		default:
			return ReleaseView{}, book.First.Errorf("this part waits at %s", b.Room)
		}
		var laid int64
		if err := tx.Model(&builds.PlyRecord{}).Where("build_id = ? and person_id = ?", b.ID, tx.By.Person.ID).
			Count(&laid).Error; err != nil {
			return ReleaseView{}, err
		}
		if laid > 0 {
			return ReleaseView{}, book.Second.Errorf(
				"you laid plies of this part: a second person has to inspect and sign it",
			)
		}
		lines, err := v.compare(in.Measured)
		if err != nil {
			return ReleaseView{}, err
		}
		for _, what := range v.expected.Unmeasured(release.Measured(in.Measured)) {
			v.Missing = append(v.Missing, what+" is not measured")
		}
		if err := release.Refusal(release.Disposition(in.Disposition), lines, v.Missing, in.Reason); err != nil {
			return ReleaseView{}, book.Incomplete.Errorf("%s", err)
		}
		record := Release{
			BuildID:     b.ID,
			Mass:        in.Mass,
			Thickness:   in.Thickness,
			Lines:       lines,
			Disposition: in.Disposition,
			Reason:      in.Reason,
			PersonID:    tx.By.Person.ID,
			At:          tx.Now,
		}
		if err := tx.Create(&record).Error; err != nil {
			return ReleaseView{}, err
		}
		if err := tx.Model(&builds.Build{ID: b.ID}).Update("done_at", tx.Now).Error; err != nil {
			return ReleaseView{}, err
		}
		if err := tx.Log("part signed "+in.Disposition, b.Code, in.Reason, map[string]any{
			"mass": in.Mass, "thickness": in.Thickness, "values": in.Values, "meaning": "inspected", "role": tx.Role(),
		}); err != nil {
			return ReleaseView{}, err
		}
		return s.ReleaseView(tx.DB, b.Code)
	})
}
