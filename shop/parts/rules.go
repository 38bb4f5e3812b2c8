package parts

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// Waiver lets a finding of a revision stand.
type Waiver struct {
	ID          int64
	RevisionID  int64
	Rule        string
	Finding     string `gorm:"column:says"`
	Reason      string
	PersonID    int64
	At          time.Time
	WithdrawnAt *time.Time
	WithdrawnBy *int64
}

// about says whether a waiver is of a finding. One of before findings held their
// quantities as data has them in words, and some without their unit.
func (w Waiver) about(rule, says string) bool {
	plain := func(s string) string { return strings.ReplaceAll(unit.InMetric(s), " mm", "") }
	return w.Rule == rule && plain(w.Finding) == plain(says)
}

// RuleSettings are the shop's limits for laminates. A limit of 0, or a switch
// that is off, turns its rule off.
type RuleSettings struct {
	Symmetry  bool    `json:"symmetry"`
	Balance   bool    `json:"balance"`
	MinShare  float64 `json:"minShare" doc:"Least share of each of 0°, ±45° and 90°" minimum:"0" maximum:"0.33"`
	MaxRun    int     `json:"maxRun" doc:"Most equal angles in a row" minimum:"0" maximum:"100"`
	MaxStep   float64 `json:"maxStep" doc:"Largest angle between neighbours, degrees" minimum:"0" maximum:"90"`
	Outer45   bool    `json:"outer45" doc:"Outer plies at ±45°"`
	DropSlope float64 `json:"dropSlope" doc:"Distance of two drops over the thickness dropped" minimum:"0" maximum:"500"`
	MaxDrop   int     `json:"maxDrop" doc:"Most plies that end at one line" minimum:"0" maximum:"100"`
	MaxRamp   float64 `json:"maxRamp" doc:"Steepest chamfer of a core, degrees" minimum:"0" maximum:"90"`
	CoreResin float64 `json:"coreResin" doc:"Least resin share of a ply that bonds a core without film adhesive" minimum:"0" maximum:"1"`
	Galvanic  bool    `json:"galvanic" doc:"Nothing that conducts touches metal"`
}

// Core is the settings as the core's value.
func (r RuleSettings) Core() laminate.Rules {
	return laminate.Rules{
		Symmetry:  r.Symmetry,
		Balance:   r.Balance,
		MinShare:  r.MinShare,
		MaxRun:    r.MaxRun,
		MaxStep:   unit.Rad(r.MaxStep),
		Outer45:   r.Outer45,
		DropSlope: r.DropSlope,
		MaxDrop:   r.MaxDrop,
		MaxRamp:   unit.Rad(r.MaxRamp),
		CoreResin: r.CoreResin,
		Galvanic:  r.Galvanic,
	}
}

func usualRules() RuleSettings {
	r := laminate.DefaultRules()
	return RuleSettings{
		Symmetry:  r.Symmetry,
		Balance:   r.Balance,
		MinShare:  r.MinShare,
		MaxRun:    r.MaxRun,
		MaxStep:   unit.Deg(r.MaxStep),
		Outer45:   r.Outer45,
		DropSlope: r.DropSlope,
		MaxDrop:   r.MaxDrop,
		MaxRamp:   30,
		CoreResin: r.CoreResin,
		Galvanic:  r.Galvanic,
	}
}

const rulesKey = "laminate rules"

// rules are the shop's own limits, or the usual ones.
func (s *Room) rules(db *gorm.DB) (RuleSettings, error) {
	v, err := ruleView(db)
	return v.Limits, err
}

// RuleView is the rules with their limits, reasons and sources.
type RuleView struct {
	Version   int          `json:"version" doc:"0: the usual ones, nobody has changed them"`
	Limits    RuleSettings `json:"limits"`
	Rules     []RuleLine   `json:"rules"`
	ChangedAt *time.Time   `json:"changedAt,omitempty"`
}

// RuleLine is one rule.
type RuleLine struct {
	Name   string `json:"name"`
	Asks   string `json:"asks"`
	Why    string `json:"why"`
	Source string `json:"source"`
}

func ruleView(db *gorm.DB) (RuleView, error) {
	v := RuleView{Limits: usualRules()}
	for _, r := range laminate.RuleNames {
		v.Rules = append(v.Rules, RuleLine(r))
	}
	var err error
	v.Version, v.ChangedAt, err = book.ReadSetting(db, rulesKey, &v.Limits)
	return v, err
}

// Rules are the shop's rules for laminates.
func (s *Room) Rules(ctx context.Context) (RuleView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RuleView, error) { return ruleView(db) })
}

// RulesIn is a change of the shop's rules.
type RulesIn struct {
	Version int          `json:"version"`
	Limits  RuleSettings `json:"limits"`
	Reason  string       `json:"reason" minLength:"1" maxLength:"400"`
}

// ChangeRules sets the shop's rules. Released revisions keep what they are; the
// findings of all are those of the present rules.
func (s *Room) ChangeRules(ctx context.Context, by book.By, in RulesIn) (RuleView, error) {
	return book.Write(ctx, s.Book, by, book.KeepRules, "change rules", in, func(tx *book.Tx) (RuleView, error) {
		if err := book.ChangeSetting(tx, rulesKey, "rules", usualRules(), in.Limits, in.Version,
			in.Reason); err != nil {
			return RuleView{}, err
		}
		return ruleView(tx.DB)
	})
}

// WaiverView is a finding that somebody lets stand.
type WaiverView struct {
	ID      int64     `json:"id"`
	Rule    string    `json:"rule"`
	Finding string    `gorm:"column:says" json:"finding"`
	Reason  string    `json:"reason"`
	Person  string    `json:"person"`
	At      time.Time `json:"at"`
}

func (s *Room) waivers(db *gorm.DB, revisionID int64) ([]WaiverView, error) {
	out := []WaiverView{}
	err := db.Raw(`select w.id, w.rule, w.says, w.reason, p.name as person, w.at from waivers w
		join people p on p.id = w.person_id
		where w.revision_id = ? and w.withdrawn_at is null order by w.id`, revisionID).
		Scan(&out).
		Error
	return out, err
}

// NewWaiver lets a finding of the draft stand.
type NewWaiver struct {
	Rule    string `json:"rule" maxLength:"40"`
	Finding string `json:"finding" doc:"The finding, word for word" maxLength:"600"`
	Reason  string `json:"reason" minLength:"1" maxLength:"600"`
	PIN     string `json:"pin" maxLength:"12"`
}

// Waive lets a finding of a part's draft stand, signed with a reason. Who wrote
// the draft does not waive its findings.
func (s *Room) Waive(ctx context.Context, by book.By, partCode string, in NewWaiver) (RevisionView, error) {
	by, err := s.Signed(ctx, by, book.WaiveRule, in.PIN)
	if err != nil {
		return RevisionView{}, err
	}
	in.PIN = ""
	return book.Write(ctx, s.Book, by, book.WaiveRule, "waive "+partCode, in, func(tx *book.Tx) (RevisionView, error) {
		part, r, err := draft(tx, partCode)
		if err != nil {
			return RevisionView{}, err
		}
		if by.Person != nil && r.ChangedBy != nil && *r.ChangedBy == by.Person.ID {
			return RevisionView{}, book.Second.Errorf("you wrote this draft: a second person has to waive its findings")
		}
		if strings.TrimSpace(in.Reason) == "" {
			return RevisionView{}, book.Needed.At("reason", "say why the finding may stand")
		}
		m, err := s.Master(tx.DB, r)
		if err != nil {
			return RevisionView{}, err
		}
		w, err := m.Analyse(master.WhatIf{})
		if err != nil {
			return RevisionView{}, err
		}
		if w == nil || !slices.ContainsFunc(w.Findings, func(f FindingView) bool {
			return Waiver{Rule: in.Rule, Finding: in.Finding}.about(f.Rule, f.Message) && f.Waived == ""
		}) {
			return RevisionView{}, book.NotNow.Errorf(
				"there is no such finding in the draft now, or it is waived already: look at it again",
			)
		}
		if err := tx.Create(&Waiver{
			RevisionID: r.ID, Rule: in.Rule, Finding: in.Finding, Reason: strings.TrimSpace(in.Reason),
			PersonID: by.Person.ID,
			At:       tx.Now,
		}).Error; err != nil {
			return RevisionView{}, err
		}
		if err := tx.Log("finding waived", part.Code, in.Reason, map[string]string{
			"letter": r.Letter, "rule": in.Rule, "says": in.Finding, "role": tx.Role(),
		}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, r.Letter)
	})
}

// WithdrawWaiver takes a waiver of a draft back.
func (s *Room) WithdrawWaiver(ctx context.Context, by book.By, id int64) (RevisionView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.WithdrawWaiver,
		"withdraw waiver",
		id,
		func(tx *book.Tx) (RevisionView, error) {
			var all []Waiver
			if err := book.Locked(tx.DB).Where("id = ? and withdrawn_at is null", id).Find(&all).Error; err != nil {
				return RevisionView{}, err
			}
			if len(all) == 0 {
				return RevisionView{}, book.NoSuch.Errorf("there is no such waiver")
			}
			var r Revision
			if err := tx.Take(&r, all[0].RevisionID).Error; err != nil {
				return RevisionView{}, err
			}
			var part Part
			if err := tx.Take(&part, r.PartID).Error; err != nil {
				return RevisionView{}, err
			}
			if _, _, err := draft(tx, part.Code); err != nil {
				return RevisionView{}, err
			}
			all[0].WithdrawnAt, all[0].WithdrawnBy = &tx.Now, tx.By.ID()
			if err := tx.Save(&all[0]).Error; err != nil {
				return RevisionView{}, err
			}
			if err := tx.Log("waiver withdrawn", part.Code, "", map[string]string{
				"letter": r.Letter, "rule": all[0].Rule, "says": all[0].Finding,
			}); err != nil {
				return RevisionView{}, err
			}
			return s.revisionView(tx.DB, part.Code, r.Letter)
		},
	)
}
