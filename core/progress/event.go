package progress

import (
	"time"

	"juxta/core/route"
)

// Kind is what happened.
type Kind string

// Everything that happens to a build.
const (
	PlyCut       Kind = "ply cut"
	PlyVoided    Kind = "ply voided" // lost or spoiled: it is cut again
	PlyCounted   Kind = "ply counted"
	PlySetAside  Kind = "ply set aside" // out of the kit again
	KitCounted   Kind = "kit counted"
	PlyLaid      Kind = "ply laid"
	PlyTakenBack Kind = "ply taken back"
	FilmFound    Kind = "film found" // one that was missing from a ply's tally
	DemandMet    Kind = "demand met" // a hold point or a second look of the master
	DebulkBegun  Kind = "debulk begun"
	DebulkEnded  Kind = "debulk ended"
	BagClosed    Kind = "bag closed"
	LeakBegun    Kind = "leak check begun"
	LeakChecked  Kind = "leak checked"
	RunBegun     Kind = "run begun"
	RunStopped   Kind = "run stopped"
	RunFailed    Kind = "run failed"
	RunEnded     Kind = "run ended"
	Begun        Kind = "begun" // work that is signed for itself, or that goes out
	Resumed      Kind = "resumed"
	Signed       Kind = "signed"
	NotGood      Kind = "not good" // signed, and found not good: a hold that quality disposes of
	Held         Kind = "held"
	TakenBack    Kind = "taken back"
	LeftOut      Kind = "left out"
	Reworked     Kind = "reworked" // an operation is added to this build alone
	Referred     Kind = "referred"
	Released     Kind = "released" // disposed of
	Ended        Kind = "ended"    // before its time
)

// Kinds are all kinds of event, in the order of a plain part's work.
func Kinds() []Kind {
	return []Kind{
		PlyCut, PlyVoided, PlyCounted, PlySetAside, KitCounted, PlyLaid, PlyTakenBack, FilmFound, DemandMet,
		DebulkBegun, DebulkEnded, BagClosed, LeakBegun, LeakChecked, RunBegun, RunStopped, RunFailed, RunEnded,
		Begun, Resumed, Signed, NotGood, Held, TakenBack, LeftOut, Reworked, Referred, Released, Ended,
	}
}

// Good is the disposition of a part that is released. One that is referred or scrapped is not.
const Good = "good"

// Event is one thing that was recorded of a build. What a kind does not need is empty.
type Event struct {
	Kind Kind      `json:"kind" enum:"ply cut,ply voided,ply counted,ply set aside,kit counted,ply laid,ply taken back,film found,demand met,debulk begun,debulk ended,bag closed,leak check begun,leak checked,run begun,run stopped,run failed,run ended,begun,resumed,signed,not good,held,taken back,left out,reworked,referred,released,ended"`
	At   time.Time `json:"at"`
	Who  string    `json:"who,omitempty"`

	Second    string `json:"second,omitempty" doc:"The second person"`
	Operation string `json:"operation,omitempty" doc:"Its key; of a ply it follows from the ply"`
	Reason    string `json:"reason,omitempty" doc:"Why; what was said"`

	Ply   int    `json:"ply,omitempty" doc:"Number of a ply; of a debulk the last ply under it" minimum:"0"`
	Label string `json:"label,omitempty" doc:"Of a cut ply"`
	Films int    `json:"films,omitempty" doc:"Ply laid: films that are missing from its tally" minimum:"0"`
	Item  string `json:"item,omitempty" doc:"Demand: key of its item"`
	Point string `json:"point,omitempty" doc:"Demand: a hold point, or a second look" enum:"hold,second"`

	Met    bool       `json:"met,omitempty" doc:"Debulk ended: it counts. Leak checked: it is tight. Run ended: its limits were met"`
	Vacuum bool       `json:"vacuum,omitempty" doc:"Bag closed: it is drawn down, so it is checked for leaks"`
	Run    string     `json:"run,omitempty" doc:"Id of a run"`
	Cure   float64    `json:"cure,omitempty" doc:"Run ended, stopped or failed: degree of cure that it left; 0: not judged" minimum:"0" maximum:"1"`
	Until  *time.Time `json:"until,omitempty" doc:"Run begun: when it will end. Begun: when what went out is due back"`

	Added  *route.Operation `json:"-"` // reworked: the operation
	Before []string         `json:"before,omitempty" doc:"Reworked: keys of what waits for it"`
	Says   string           `json:"says,omitempty" doc:"Released: good, refer or scrap"`
}
