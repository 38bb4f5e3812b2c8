package parts

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
)

// Tool is a mould, mandrel or press tool.
type Tool struct {
	ID         int64
	Name, Kind string
	Sheet      ToolSheet `gorm:"serializer:json"`
	Version    int
	CreatedAt  time.Time
}

// ToolEvent is a line in the log of a tool.
type ToolEvent struct {
	ID        int64
	ToolID    int64
	Kind      string
	At        time.Time
	EnteredAt time.Time
	PersonID  int64
	Note      string
}

// ToolKinds are the kinds of tool.
var ToolKinds = []string{"flat tool", "female tool", "split female tool", "male mandrel", "bladder", "press tool"}

// ToolSheet is what is known of a tool. SI.
type ToolSheet struct {
	Length      float64   `json:"length,omitempty" doc:"m" minimum:"0" maximum:"100"`
	Width       float64   `json:"width,omitempty" doc:"m" minimum:"0" maximum:"100"`
	Height      float64   `json:"height,omitempty" doc:"m" minimum:"0" maximum:"100"`
	Material    string    `json:"material,omitempty" maxLength:"60"`
	Expansion   float64   `json:"expansion,omitempty" doc:"1/K" minimum:"-0.001" maximum:"0.001"`
	ThermalMass float64   `json:"thermalMass,omitempty" doc:"J/K" minimum:"0"`
	Rosettes    []Rosette `json:"rosettes,omitempty" maxItems:"20"`
	Datums      []Datum   `json:"datums,omitempty" maxItems:"20"`
	CoatsLast   int       `json:"coatsLast,omitempty" doc:"Cures that release coats last for; 0: not said" minimum:"0" maximum:"1000"`
	Note        string    `json:"note,omitempty" maxLength:"600"`
}

// Rosette is a mark of 0° on a tool.
type Rosette struct {
	Name     string  `json:"name" minLength:"1" maxLength:"40"`
	AngleDeg float64 `json:"angleDeg" minimum:"-360" maximum:"360"`
}

// Datum is a mark that places are measured from, m.
type Datum struct {
	Name string  `json:"name" minLength:"1" maxLength:"40"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
}

// ToolIn is a tool as entered.
type ToolIn struct {
	Name    string    `json:"name" minLength:"1" maxLength:"60"`
	Kind    string    `json:"kind" enum:"flat tool,female tool,split female tool,male mandrel,bladder,press tool"`
	Sheet   ToolSheet `json:"sheet"`
	Version int       `json:"version,omitempty" doc:"Of a tool that is changed: what the person saw"`
}

// ToolView is a tool with its log.
type ToolView struct {
	ToolIn
	ID     int64           `json:"id"`
	Coats  int             `json:"coats" doc:"Release coats since it was last stripped or cleaned"`
	Cures  int             `json:"cures" doc:"Since the last release coat"`
	Due    bool            `json:"due" doc:"Its coats have lasted as long as they do"`
	Events []ToolEventView `json:"events" doc:"Newest first"`
	Parts  []string        `json:"parts" doc:"Numbers of parts whose newest revision is made on it"`
}

// ToolEventView is a line of a tool's log.
type ToolEventView struct {
	Kind   string    `json:"kind"`
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	Note   string    `json:"note,omitempty"`
}

// Tools lists the tools by name.
func (s *Room) Tools(ctx context.Context) ([]ToolView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]ToolView, error) { return s.toolViews(db, "true") })
}

func (s *Room) toolViews(db *gorm.DB, where string, args ...any) ([]ToolView, error) {
	var tools []Tool
	if err := db.Where(where, args...).Order("lower(name)").Find(&tools).Error; err != nil {
		return nil, err
	}
	names, err := s.Names(db)
	if err != nil {
		return nil, err
	}
	var events []ToolEvent
	if err := db.Order("at desc, id desc").Find(&events).Error; err != nil {
		return nil, err
	}
	var made []struct{ Number, Tool string }
	if err := db.Raw(`select p.number, r.process->>'tool' as tool from parts p join lateral (select process
		from revisions r where r.part_id = p.id order by r.id desc limit 1) r on true
		order by p.number`).Scan(&made).Error; err != nil {
		return nil, err
	}
	out := []ToolView{}
	for _, t := range tools {
		v := ToolView{
			ToolIn: ToolIn{Name: t.Name, Kind: t.Kind, Sheet: t.Sheet, Version: t.Version},
			ID:     t.ID,
			Events: []ToolEventView{},
			Parts:  []string{},
		}
		coated, bare := false, false
		for _, e := range events {
			if e.ToolID != t.ID {
				continue
			}
			v.Events = append(v.Events, ToolEventView{e.Kind, e.At, names[e.PersonID], e.Note})
			switch {
			case bare:
			case e.Kind == "stripped" || e.Kind == "cleaned":
				bare = true
			case e.Kind == "release coat":
				v.Coats++
				coated = true
			case e.Kind == "cured" && !coated:
				v.Cures++
			}
		}
		v.Due = v.Coats == 0 || t.Sheet.CoatsLast > 0 && v.Cures >= t.Sheet.CoatsLast
		for _, m := range made {
			if m.Tool == t.Name {
				v.Parts = append(v.Parts, m.Number)
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// SaveTool enters a tool (id 0) or changes one.
func (s *Room) SaveTool(ctx context.Context, by book.By, id int64, in ToolIn) (ToolView, error) {
	return book.Write(ctx, s.Book, by, book.KeepTools, "save tool", []any{id, in}, func(tx *book.Tx) (ToolView, error) {
		in.Name = strings.TrimSpace(in.Name)
		if in.Name == "" || !slices.Contains(ToolKinds, in.Kind) {
			return ToolView{}, book.Needed.At(
				"name",
				"a tool needs a name, and is one of %s",
				strings.Join(ToolKinds, ", "),
			)
		}
		t := Tool{Version: 0, CreatedAt: tx.Now}
		if id != 0 {
			err := book.Locked(tx.DB).Take(&t, id).Error
			if errors.Is(err, gorm.ErrRecordNotFound) {
				return ToolView{}, book.NoSuch.Errorf("there is no such tool")
			}
			if err != nil {
				return ToolView{}, err
			}
			if t.Version != in.Version {
				return ToolView{}, book.Changed.Errorf("somebody changed %s in the meantime: look at it again", t.Name)
			}
		}
		t.Name, t.Kind, t.Sheet = in.Name, in.Kind, in.Sheet
		t.Version++
		if err := tx.Save(&t).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
			return ToolView{}, book.Taken.Errorf("there is already a tool called %s", in.Name)
		} else if err != nil {
			return ToolView{}, err
		}
		if err := tx.Log("tool saved", t.Name, "", in); err != nil {
			return ToolView{}, err
		}
		all, err := s.toolViews(tx.DB, "id = ?", t.ID)
		if err != nil {
			return ToolView{}, err
		}
		return all[0], nil
	})
}

// NewToolEvent is work on a tool.
type NewToolEvent struct {
	Kind string     `json:"kind" enum:"cleaned,release coat,cured,stripped,checked,repaired"`
	At   *time.Time `json:"at,omitempty" doc:"Missing: now"`
	Note string     `json:"note,omitempty" maxLength:"400"`
}

// LogToolWork writes a line into a tool's log.
func (s *Room) LogToolWork(ctx context.Context, by book.By, id int64, in NewToolEvent) (ToolView, error) {
	return book.Write(ctx, s.Book, by, book.LogTool, "log tool", []any{id, in}, func(tx *book.Tx) (ToolView, error) {
		at := tx.Now
		if in.At != nil {
			at = *in.At
		}
		if at.After(tx.Now.Add(time.Minute)) {
			return ToolView{}, book.WrongTime.At("at", "this time lies in the future")
		}
		var t Tool
		err := book.Locked(tx.DB).Take(&t, id).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return ToolView{}, book.NoSuch.Errorf("there is no such tool")
		}
		if err != nil {
			return ToolView{}, err
		}
		if err := tx.Create(&ToolEvent{
			ToolID: id, Kind: in.Kind, At: at, EnteredAt: tx.Now, PersonID: tx.By.Person.ID,
			Note: strings.TrimSpace(in.Note),
		}).Error; err != nil {
			return ToolView{}, err
		}
		if err := tx.Log("tool "+in.Kind, t.Name, in.Note, map[string]any{"at": at}); err != nil {
			return ToolView{}, err
		}
		all, err := s.toolViews(tx.DB, "id = ?", id)
		if err != nil {
			return ToolView{}, err
		}
		return all[0], nil
	})
}
