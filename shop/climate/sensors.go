package climate

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"juxta/core/material"
	"juxta/shop/book"
	"juxta/shop/people"
)

// Room of the air.
type Room struct{ *people.Room }

// RoomConditions is the air of the room as last measured.
type RoomConditions struct {
	Temperature *float64  `json:"temperature,omitempty" doc:"K"`
	Humidity    *float64  `json:"humidity,omitempty" doc:"0 to 1"`
	DewPoint    *float64  `json:"dewPoint,omitempty" doc:"K"`
	Sensor      string    `json:"sensor"`
	At          time.Time `json:"at"`
}

// Measured is the air of the room as measured last before a moment, nil if nobody
// measured within the time that a sensor may be silent.
func (s *Room) Measured(db *gorm.DB, at time.Time) (*RoomConditions, error) {
	var rows []RoomConditions
	err := db.Raw(`select g.temperature, g.humidity, n.name as sensor, g.at from sensors n
		join lateral (select * from sensor_readings g where g.sensor_id = n.id and g.at <= ? and g.at > ?
		and g.temperature is not null order by g.at desc limit 1) g on true
		where n.freezer_id is null order by g.at desc limit 1`, at, at.Add(-material.Silence)).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	r := rows[0]
	if r.Humidity != nil {
		// Outside the range of the formula there is no dew point, which says enough.
		if dew, err := material.DewPoint(*r.Temperature, *r.Humidity); err == nil {
			r.DewPoint = &dew
		}
	}
	return &r, nil
}

// SensorView is a sensor with the last day that it measured.
type SensorView struct {
	ID        int64         `json:"id"`
	Topic     string        `json:"topic"`
	Name      string        `json:"name"`
	FreezerID int64         `json:"freezerId,omitempty" doc:"0: the room"`
	Freezer   string        `json:"freezer,omitempty"`
	LimitTemp float64       `json:"limitTemp,omitempty" doc:"K"`
	Silent    bool          `json:"silent" doc:"Nothing heard for longer than it may be silent"`
	Readings  []SensorPoint `gorm:"-" json:"readings" doc:"The last day, at most one each 5 min: the warmest of them"`
}

// SensorPoint is a reading as drawn.
type SensorPoint struct {
	At          time.Time `json:"at"`
	Temperature *float64  `json:"temperature"`
	Humidity    *float64  `json:"humidity"`
}

// Sensors lists the sensors with their last day.
func (s *Room) Sensors(ctx context.Context) ([]SensorView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]SensorView, error) {
		views := []SensorView{}
		if err := db.Raw(`select n.id, n.topic, n.name, coalesce(n.freezer_id, 0) as freezer_id, coalesce(f.name,
			'') as freezer, coalesce(f.limit_temp, 0) as limit_temp
			from sensors n left join freezers f on f.id = n.freezer_id
			order by f.name nulls first, n.name`).Scan(&views).Error; err != nil {
			return nil, err
		}
		now := s.Now()
		for i := range views {
			v := &views[i]
			v.Readings = []SensorPoint{}
			if err := db.Raw(`select date_bin('5 minutes', at, timestamptz '2000-01-01') as at,
				max(temperature) as temperature, max(humidity) as humidity
				from sensor_readings where sensor_id = ? and at > ? and at <= ? group by 1
				order by 1`, v.ID, now.Add(-24*time.Hour), now).Scan(&v.Readings).Error; err != nil {
				return nil, err
			}
			v.Silent = len(v.Readings) == 0 ||
				now.Sub(v.Readings[len(v.Readings)-1].At) > material.Silence+5*time.Minute
		}
		return views, nil
	})
}

// SensorIn is a sensor as entered.
type SensorIn struct {
	Topic     string `json:"topic" minLength:"1" maxLength:"120" doc:"MQTT topic, such as juxta/freezer-1"`
	Name      string `json:"name" minLength:"1" maxLength:"60"`
	FreezerID int64  `json:"freezerId,omitempty" doc:"0: the room"`
}

// SaveSensor enters a sensor, or changes the one with this id.
func (s *Room) SaveSensor(ctx context.Context, by book.By, id int64, in SensorIn) (SensorIn, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepFreezers,
		"save sensor",
		[]any{id, in},
		func(tx *book.Tx) (SensorIn, error) {
			in.Topic, in.Name = strings.TrimSpace(in.Topic), strings.TrimSpace(in.Name)
			if in.Topic == "" || strings.ContainsAny(in.Topic, "#+") {
				return in, book.Wrong.At("topic", "the topic names one sensor: no # and no +")
			}
			if in.Name == "" {
				return in, book.Needed.At("name", "the sensor needs a name")
			}
			if err := KnowsFreezer(tx, in.FreezerID); err != nil {
				return in, err
			}
			n := Sensor{ID: id}
			if id != 0 {
				if err := book.Locked(tx.DB).Take(&n, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
					return in, book.NoSuch.Errorf("there is no such sensor")
				} else if err != nil {
					return in, err
				}
			}
			n.Topic, n.Name, n.FreezerID = in.Topic, in.Name, nil
			if in.FreezerID != 0 {
				n.FreezerID = &in.FreezerID
			}
			if err := tx.Save(&n).Error; err != nil {
				if errors.Is(err, gorm.ErrDuplicatedKey) {
					return in, book.Taken.Errorf("another sensor already speaks on %s", in.Topic)
				}
				return in, err
			}
			return in, tx.Log("sensor saved", n.Name, "", in)
		},
	)
}

// AlarmView is an alarm of a sensor.
type AlarmView struct {
	ID        int64      `json:"id"`
	Kind      string     `json:"kind" enum:"too warm,silent"`
	Sensor    string     `json:"sensor"`
	FreezerID int64      `json:"freezerId,omitempty"`
	Freezer   string     `json:"freezer,omitempty"`
	LimitTemp float64    `json:"limitTemp,omitempty" doc:"K"`
	RaisedAt  time.Time  `json:"raisedAt"`
	EndedAt   *time.Time `json:"endedAt,omitempty"`
	Worst     *float64   `json:"worst,omitempty" doc:"Warmest reading, K"`
	SeenAt    *time.Time `json:"seenAt,omitempty"`
	SeenBy    string     `json:"seenBy,omitempty"`
	Note      string     `json:"note,omitempty"`
	Rolls     int        `json:"rolls" doc:"In this freezer now"`
}

// Alarms lists the alarms that nobody has acknowledged or that go on, or the
// last hundred.
func (s *Room) Alarms(ctx context.Context, all bool) ([]AlarmView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]AlarmView, error) {
		if all {
			return s.alarms(db, "true")
		}
		return s.alarms(db, "(a.seen_at is null or a.ended_at is null)")
	})
}

func (s *Room) alarms(db *gorm.DB, where string, args ...any) ([]AlarmView, error) {
	out := []AlarmView{}
	err := db.Raw(`select a.id, a.kind, n.name as sensor, coalesce(f.id, 0) as freezer_id, coalesce(f.name,
		'') as freezer, coalesce(f.limit_temp, 0) as limit_temp,
		a.raised_at, a.ended_at, a.worst, a.seen_at, coalesce(p.name, '') as seen_by, a.note,
		(select count(*) from rolls r where r.freezer_id = f.id and r.length > 0 and not r.out) as rolls
		from alarms a join sensors n on n.id = a.sensor_id left join freezers f on f.id = n.freezer_id
		left join people p on p.id = a.seen_by
		where `+where+` order by a.seen_at is not null, a.raised_at desc limit 100`, args...).
		Scan(&out).
		Error
	return out, err
}

// SeeAlarm acknowledges an alarm.
func (s *Room) SeeAlarm(ctx context.Context, by book.By, id int64, note string) (AlarmView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.SeeAlarm,
		"see alarm",
		[]any{id, note},
		func(tx *book.Tx) (AlarmView, error) {
			var a Alarm
			if err := book.Locked(tx.DB).Take(&a, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
				return AlarmView{}, book.NoSuch.Errorf("there is no such alarm")
			} else if err != nil {
				return AlarmView{}, err
			}
			if a.SeenAt != nil {
				return AlarmView{}, book.Done.Errorf("somebody acknowledged this alarm already")
			}
			if note = strings.TrimSpace(note); note == "" {
				return AlarmView{}, book.Needed.At("note", "say what you found and did")
			}
			a.SeenAt, a.SeenBy, a.Note = &tx.Now, tx.By.ID(), note
			if err := tx.Save(&a).Error; err != nil {
				return AlarmView{}, err
			}
			views, err := s.alarms(tx.DB, "a.id = ?", a.ID)
			if err != nil {
				return AlarmView{}, err
			}
			return views[0], tx.Log(
				"alarm acknowledged",
				views[0].Sensor,
				note,
				map[string]any{"kind": a.Kind, "raised": a.RaisedAt},
			)
		},
	)
}

// LoggerReading is what a logger sent.
type LoggerReading struct {
	At          time.Time `json:"at"`
	Temperature *float64  `json:"temperature" doc:"°C"`
	Humidity    *float64  `json:"humidity" doc:"%"`
}

// Sense keeps what a sensor sent on its topic, and raises or ends the alarm of
// its freezer. It may come twice and out of order. known is false for a topic
// that no sensor here speaks on.
func (s *Room) Sense(ctx context.Context, topic string, in LoggerReading) (known bool, err error) {
	db := s.DB.Gorm.WithContext(ctx)
	var n Sensor
	if err := db.Where("topic = ?", topic).Limit(1).Find(&n).Error; err != nil || n.ID == 0 {
		return false, err
	}
	now := s.Now()
	if in.At.IsZero() || in.At.After(now.Add(time.Minute)) {
		return true, fmt.Errorf("a reading of %s lies in the future or has no time", n.Name)
	}
	r := SensorReading{SensorID: n.ID, At: in.At.UTC().Truncate(time.Microsecond)}
	// What no freezer or room can have is a fault of the sensor: the value is
	// dropped, so that it ages nothing and calms nothing.
	if t := in.Temperature; t != nil && !math.IsNaN(*t) && *t > -100 && *t < 100 {
		k := *t + 273.15
		r.Temperature = &k
	}
	if h := in.Humidity; h != nil && *h >= 0 && *h <= 100 {
		share := *h / 100
		r.Humidity = &share
	}
	if err := db.Clauses(clause.OnConflict{DoNothing: true}).Create(&r).Error; err != nil {
		return true, err
	}
	if n.FreezerID == nil {
		return true, nil
	}
	return true, s.watch(ctx, n, now)
}

// watch raises and ends the alarms of one sensor.
func (s *Room) watch(ctx context.Context, n Sensor, now time.Time) error {
	db := s.DB.Gorm.WithContext(ctx)
	var log []SensorReading
	if err := db.Where("sensor_id = ? and at > ? and at <= ?", n.ID, now.Add(-6*time.Hour), now).Order("at").Find(&log).
		Error; err != nil {
		return err
	}
	sensed, last := []material.SensorReading{}, time.Time{}
	for _, r := range log {
		last = r.At
		if r.Temperature != nil {
			sensed = append(sensed, material.SensorReading{At: r.At, T: *r.Temperature})
		}
	}
	if n.FreezerID != nil {
		var f Freezer
		if err := db.Take(&f, *n.FreezerID).Error; err != nil {
			return err
		}
		since, worst, alarm := material.TooWarm(sensed, f.LimitTemp)
		over := len(sensed) > 0 && sensed[len(sensed)-1].T > f.LimitTemp
		if err := s.alarm(ctx, n, "too warm", alarm, over, since, &worst); err != nil {
			return err
		}
	}
	silent := now.Sub(last) > material.Silence
	since := last
	if since.IsZero() {
		since = now
	}
	return s.alarm(ctx, n, "silent", silent, silent, since, nil)
}

// alarm raises an alarm once, keeps its worst reading, and ends it when what
// raised it is over.
func (s *Room) alarm(
	ctx context.Context,
	n Sensor,
	kind string,
	raise, goesOn bool,
	since time.Time,
	worst *float64,
) error {
	db := s.DB.Gorm.WithContext(ctx)
	var open Alarm
	if err := db.Where("sensor_id = ? and kind = ? and ended_at is null", n.ID, kind).Limit(1).Find(&open).
		Error; err != nil {
		return err
	}
	switch {
	case open.ID == 0 && raise:
		_, err := book.Write(
			ctx,
			s.Book,
			book.By{},
			book.SeeAlarm,
			"raise alarm",
			nil,
			func(tx *book.Tx) (struct{}, error) {
				a := Alarm{SensorID: n.ID, Kind: kind, RaisedAt: since, Worst: worst}
				made := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&a)
				if made.Error != nil || made.RowsAffected == 0 {
					tx.LoggedElsewhere() // another process was first, and logged it
					return struct{}{}, made.Error
				}
				return struct{}{}, tx.Log(
					"alarm raised",
					n.Name,
					"",
					map[string]any{"kind": kind, "since": since, "worst": worst},
				)
			},
		)
		return err
	case open.ID != 0 && !goesOn:
		_, err := book.Write(
			ctx,
			s.Book,
			book.By{},
			book.SeeAlarm,
			"end alarm",
			nil,
			func(tx *book.Tx) (struct{}, error) {
				if err := tx.Model(&Alarm{}).Where("id = ? and ended_at is null", open.ID).Update("ended_at", tx.Now).
					Error; err != nil {
					return struct{}{}, err
				}
				return struct{}{}, tx.Log("alarm cleared", n.Name, "", map[string]any{"kind": kind})
			},
		)
		return err
	case open.ID != 0 && worst != nil && *worst > 0 && (open.Worst == nil || *worst > *open.Worst):
		return db.Model(&open).Update("worst", *worst).Error
	}
	return nil
}

// WatchSensors looks for sensors that have fallen silent. It is called every
// now and then.
func (s *Room) WatchSensors(ctx context.Context) error {
	var all []Sensor
	if err := s.DB.Gorm.WithContext(ctx).Find(&all).Error; err != nil {
		return err
	}
	for _, n := range all {
		if err := s.watch(ctx, n, s.Now()); err != nil {
			return err
		}
	}
	return nil
}

// RoomState is the air of the room, if somebody measures.
type RoomState struct {
	Room *RoomConditions `json:"room,omitempty"`
}

// Air is the air of the room as measured last.
func (s *Room) Air(ctx context.Context) (RoomState, error) {
	r, err := s.Measured(s.DB.Gorm.WithContext(ctx), s.Now())
	return RoomState{r}, err
}

func KnowsFreezer(tx *book.Tx, id int64) error {
	if id == 0 {
		return nil
	}
	var n int64
	if err := tx.Model(&Freezer{}).Where("id = ?", id).Count(&n).Error; err != nil {
		return err
	}
	if n == 0 {
		return book.NotHere.At("freezerId", "this freezer is not known here")
	}
	return nil
}
