package book

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Act is one thing that somebody may do, as it stands in the matrix.
type Act string

// The acts. Reading is open to everybody who is signed in.
const (
	HandleMaterial Act = "handle material"
	ReceiveStock   Act = "receive material"
	ScrapMaterial  Act = "scrap material"
	CorrectLedger  Act = "correct the ledger"
	RecordTests    Act = "record acceptance tests"
	DecideBatch    Act = "decide on batches"
	KeepFreezers   Act = "manage freezers and sensors"
	TellFailure    Act = "report a freezer failure"
	SeeAlarm       Act = "acknowledge alarms"
	KeepMaterials  Act = "manage materials and resins"
	WriteMaster    Act = "edit the master"
	ReleaseMaster  Act = "release a revision"
	AskMaster      Act = "calculate a master"
	CheckMaster    Act = "check a revision"
	WaiveRule      Act = "waive a rule"
	WithdrawWaiver Act = "withdraw a waiver"
	KeepRules      Act = "change the shop's rules"
	KeepTools      Act = "manage tools"
	LogTool        Act = "log work on a tool"
	OpenBuild      Act = "open a build"
	CutPlies       Act = "nest and cut"
	CountKit       Act = "count a kit"
	FinishPart     Act = "work on a part"
	ReworkPart     Act = "rework a part"
	LeaveOutStep   Act = "leave an operation out"
	LayPlies       Act = "lay and debulk"
	SecondLook     Act = "sign as second person"
	GiveUpBuild    Act = "end a build"
	BagPart        Act = "bag and check for leaks"
	RunOven        Act = "run the oven"
	StopOven       Act = "stop a run"
	LeaveNote      Act = "leave a note to the next shift"
	InspectPart    Act = "inspect and sign off"
	ReferPart      Act = "refer a part"
	KeepPeople     Act = "manage people"
	KeepTablets    Act = "register tablets"
	EndTablet      Act = "end a tablet"
	Qualify        Act = "give and withdraw qualifications"
	OwnAccount     Act = "change one's own PIN and sessions"
)

// Roles in the order of the matrix.
var Roles = []string{"technician", "planner", "quality", "administrator", "viewer"}

// Qualifications that a step can demand.
var Qualifications = []string{"laminating", "bagging", "oven", "bonding", "inspection"}

// Permit is one line of the matrix: who may do an act, by role, and the
// qualification that it demands besides, of whatever role.
type Permit struct {
	Act           Act      `json:"act"`
	Room          string   `json:"room" doc:"Where it is done, or shop"`
	Roles         []string `json:"roles"`
	Qualification string   `json:"qualification,omitempty" doc:"Demanded of everybody, in date on the day"`
	Second        string   `json:"second,omitempty" doc:"Who must not sign it: the second person differs from the first"`
	PIN           bool     `json:"pin" doc:"The PIN is asked again with the signature"`
}

// everybody are those who work with their hands or plan for those who do.
var everybody = []string{"technician", "planner", "quality", "administrator"}

// Matrix says who may do what. It is the one place that does.
var Matrix = []Permit{
	{Act: HandleMaterial, Room: "freezer", Roles: everybody},
	{Act: ReceiveStock, Room: "freezer", Roles: everybody},
	{Act: ScrapMaterial, Room: "freezer", Roles: []string{"technician", "quality", "administrator"}},
	{
		Act:    CorrectLedger,
		Room:   "freezer",
		Roles:  []string{"technician", "quality", "administrator"},
		Second: "a technician corrects only lines of their own",
	},
	{Act: RecordTests, Room: "freezer", Roles: []string{"technician", "quality", "administrator"}},
	{Act: DecideBatch, Room: "freezer", Roles: []string{"quality"}, Second: "not who received the batch", PIN: true},
	{Act: TellFailure, Room: "freezer", Roles: []string{"technician", "quality", "administrator"}},
	{Act: SeeAlarm, Room: "freezer", Roles: everybody},
	{Act: KeepFreezers, Room: "freezer", Roles: []string{"quality", "administrator"}},
	{Act: KeepMaterials, Room: "freezer", Roles: []string{"planner", "quality"}},
	{Act: WriteMaster, Room: "parts", Roles: []string{"planner", "administrator"}},
	{Act: AskMaster, Room: "parts", Roles: Roles},
	{
		Act:    CheckMaster,
		Room:   "parts",
		Roles:  []string{"planner", "quality"},
		Second: "not who wrote the draft last",
		PIN:    true,
	},
	{
		Act:    ReleaseMaster,
		Room:   "parts",
		Roles:  []string{"planner", "quality"},
		Second: "not who wrote the draft last, nor, unless the shop decides otherwise, who checked it",
		PIN:    true,
	},
	{Act: WaiveRule, Room: "parts", Roles: []string{"quality"}, Second: "not who wrote the draft last", PIN: true},
	{Act: WithdrawWaiver, Room: "parts", Roles: []string{"quality"}},
	{Act: KeepRules, Room: "parts", Roles: []string{"quality", "administrator"}},
	{Act: KeepTools, Room: "parts", Roles: []string{"planner", "quality", "administrator"}},
	{Act: LogTool, Room: "parts", Roles: everybody},
	{Act: OpenBuild, Room: "parts", Roles: []string{"planner", "administrator"}},
	{Act: GiveUpBuild, Room: "parts", Roles: []string{"planner", "quality"}},
	{Act: CutPlies, Room: "cut", Roles: []string{"technician", "planner", "administrator"}},
	{Act: CountKit, Room: "kits", Roles: []string{"technician", "planner", "quality", "administrator"}},
	{Act: LayPlies, Room: "layup", Roles: []string{"technician", "administrator"}, Qualification: "laminating"},
	{
		Act:    SecondLook,
		Room:   "layup",
		Roles:  []string{"technician", "quality", "administrator"},
		Second: "not who laid it",
		PIN:    true,
	},
	{Act: ReferPart, Room: "layup", Roles: []string{"technician", "quality", "administrator"}},
	{Act: BagPart, Room: "bag", Roles: []string{"technician", "administrator"}, Qualification: "bagging"},
	{Act: RunOven, Room: "cure", Roles: []string{"technician", "administrator"}, Qualification: "oven"},
	// Whoever sees a reason to stop may do so.
	{Act: StopOven, Room: "cure", Roles: everybody},
	{Act: FinishPart, Room: "finish", Roles: []string{"technician", "quality", "administrator"}},
	{Act: ReworkPart, Room: "finish", Roles: []string{"quality"}, Second: "not who adds it", PIN: true},
	{Act: LeaveOutStep, Room: "finish", Roles: []string{"quality"}, PIN: true},
	{
		Act:           InspectPart,
		Room:          "release",
		Roles:         []string{"quality"},
		Qualification: "inspection",
		Second:        "not who laid a ply of the part",
		PIN:           true,
	},
	{Act: KeepPeople, Room: "shop", Roles: []string{"administrator"}, PIN: true},
	{Act: KeepTablets, Room: "shop", Roles: []string{"quality", "administrator"}, PIN: true},
	{Act: EndTablet, Room: "shop", Roles: []string{"quality", "administrator"}},
	{Act: Qualify, Room: "shop", Roles: []string{"quality", "administrator"}, Second: "nobody qualifies themselves"},
	{Act: LeaveNote, Room: "shop", Roles: everybody},
	{Act: OwnAccount, Room: "shop", Roles: Roles},
}

func PermitFor(act Act) (Permit, bool) {
	i := slices.IndexFunc(Matrix, func(p Permit) bool { return p.Act == act })
	if i < 0 {
		return Permit{}, false
	}
	return Matrix[i], true
}

// CheckRole refuses an act to a role. Work of the system itself has no person and is
// never refused.
func CheckRole(person *Person, act Act) error {
	if person == nil {
		return nil
	}
	p, known := PermitFor(act)
	if known && slices.Contains(p.Roles, person.Role) {
		return nil
	}
	return NotTheirs.Errorf("only %s can %s", oneOf(p.Roles), act)
}

func oneOf(roles []string) string {
	switch len(roles) {
	case 0:
		return "an administrator"
	case 1:
		return Article(roles[0])
	}
	parts := make([]string, len(roles))
	for i, r := range roles {
		parts[i] = Article(r)
	}
	return strings.Join(parts[:len(parts)-1], ", ") + " or " + parts[len(parts)-1]
}

func Article(role string) string {
	switch role {
	case "administrator":
		return "an administrator"
	case "quality":
		return "a quality person"
	}
	return "a " + role
}

// qualified refuses an act to somebody whose qualification for it is missing or
// out of date. It is read where the act happens, so one that was withdrawn a
// moment ago counts no more.
func qualified(db *gorm.DB, person *Person, act Act, now time.Time) error {
	p, _ := PermitFor(act)
	if p.Qualification == "" {
		return nil
	}
	return holds(db, person, p.Qualification, string(act), now)
}

// holds refuses work to somebody who does not hold a qualification today.
func holds(db *gorm.DB, person *Person, kind, work string, now time.Time) error {
	return HoldsAll(db, person, []string{kind}, work, now)
}

// HoldsAll refuses work to somebody who does not hold every one of some
// qualifications today, in one query.
func HoldsAll(db *gorm.DB, person *Person, kinds []string, work string, now time.Time) error {
	if person == nil || len(kinds) == 0 {
		return nil
	}
	held, err := heldBy(db, person, kinds)
	if err != nil {
		return err
	}
	for _, kind := range kinds {
		if err := lacks(held, person, kind, work, now); err != nil {
			return err
		}
	}
	return nil
}

// heldBy is, of each kind, the qualification of a person that lasts longest.
func heldBy(db *gorm.DB, person *Person, kinds []string) (held []Qualification, err error) {
	err = db.Raw(`select distinct on (kind) * from qualifications where person_id = ? and kind in ?
		and withdrawn_at is null order by kind, valid_until desc`,
		person.ID, kinds).
		Scan(&held).
		Error
	return held, err
}

// lacks refuses work to somebody who does not hold a qualification today.
func lacks(held []Qualification, person *Person, kind, work string, now time.Time) error {
	k := slices.IndexFunc(held, func(q Qualification) bool { return q.Kind == kind })
	switch {
	case k < 0:
		return Unskilled.Errorf(
			"%s needs the qualification %q, which %s does not hold: ask somebody who does, or a quality "+
				"person to enter it",
			work,
			kind,
			person.Name,
		)
	case now.Before(held[k].ValidFrom):
		return Unskilled.Errorf(
			"the qualification %q of %s begins on %s",
			kind,
			person.Name,
			held[k].ValidFrom.Local().Format("2 Jan 2006"),
		)
	case !now.Before(held[k].ValidUntil):
		return Unskilled.Errorf(
			"the qualification %q of %s ended on %s: a quality person can enter a new one",
			kind,
			person.Name,
			held[k].ValidUntil.Local().Format("2 Jan 2006"),
		)
	}
	return nil
}

// Permitted is a line of the matrix as it stands for one person today.
type Permitted struct {
	Act Act    `json:"act"`
	Not string `json:"not,omitempty" doc:"Why this person may not do it, in the words in which it would be refused; missing: they may"`
}

// Permits says of every act of the matrix whether somebody may do it today, so
// that a page offers nothing that would be refused for who they are.
func (s *Book) Permits(ctx context.Context, person *Person) ([]Permitted, error) {
	held, err := heldBy(s.DB.Gorm.WithContext(ctx), person, Qualifications)
	if err != nil {
		return nil, err
	}
	permits := make([]Permitted, len(Matrix))
	for i, p := range Matrix {
		why := CheckRole(person, p.Act)
		if why == nil && p.Qualification != "" {
			why = lacks(held, person, p.Qualification, string(p.Act), s.Now())
		}
		permits[i].Act = p.Act
		if why != nil {
			permits[i].Not = why.Error()
		}
	}
	return permits, nil
}

// Role of who signs, as it is at the signature.
func (tx *Tx) Role() string {
	if tx.By.Person == nil {
		return "system"
	}
	return tx.By.Person.Role
}
