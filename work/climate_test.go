package work_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/device/sim"
	"juxta/work"
)

// From the simulated logger over MQTT into the records, with garbage on one
// topic, and on again after the broker was away.
func TestReadingsArriveByMQTTAndGoOnAfterTheBrokerWasAway(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	address := freeAddress(t)
	logger, err := sim.ServeLogger(address, 30*time.Millisecond, 1, 3, s.Now)
	require.NoError(t, err)
	logger.Fail("juxta/freezer-2", sim.Garbage)
	started := s.Now()
	count := func(topic string) (n int) {
		require.NoError(
			t,
			s.DB.Gorm.Raw(`select count(*) from sensor_readings g join sensors n on n.id = g.sensor_id where n.topic = ?
				and g.at > ?`, topic, started).
				Scan(&n).
				Error,
		)
		return n
	}
	stop := work.Climate(ctx, s, "tcp://"+address)
	defer stop()
	eventually(
		t,
		"readings of the room",
		func() bool { return count("juxta/room") > 3 && count("juxta/freezer-1") > 3 },
	)
	assert.Zero(t, count("juxta/freezer-2"), "garbage is no reading")
	room, err := s.Air(ctx)
	require.NoError(t, err)
	require.NotNil(t, room.Room)
	assert.InDelta(t, 294, *room.Room.Temperature, 4)
	assert.NotNil(t, room.Room.DewPoint)

	require.NoError(t, logger.Close())
	before := count("juxta/room")
	again, err := sim.ServeLogger(address, 30*time.Millisecond, 1, 3, s.Now)
	require.NoError(t, err)
	defer again.Close()
	eventually(t, "readings after the broker came back", func() bool { return count("juxta/room") > before+3 })
}
