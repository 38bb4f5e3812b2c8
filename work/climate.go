package work

import (
	"context"
	"log/slog"
	"time"

	"github.com/google/uuid"

	"juxta/device"
	"juxta/shop"
	"juxta/shop/climate"
)

// watchEvery is how often silent sensors are looked for.
const watchEvery = time.Minute

// Climate listens to the shop's loggers and watches over them until stop is
// called. Several processes may listen at once: a reading that comes twice is
// kept once, and an alarm is raised once.
func Climate(ctx context.Context, s *shop.Shop, broker string) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	heard := device.ListenClimate(broker, "juxta-"+uuid.NewString(), func(topic string, payload []byte) {
		r, err := device.ReadClimate(payload)
		if err != nil {
			slog.Warn("a logger sent what is no reading", "topic", topic, "error", err)
			return
		}
		sensed := climate.LoggerReading{At: s.Now(), Temperature: r.Temperature, Humidity: r.Humidity}
		if r.At != nil {
			sensed.At = *r.At
		}
		known, err := s.Sense(ctx, topic, sensed)
		switch {
		case err != nil && ctx.Err() == nil:
			slog.Warn("a reading was not kept", "topic", topic, "error", err)
		case !known && err == nil:
			slog.Debug("no sensor is entered for this topic", "topic", topic)
		}
	})
	done := make(chan struct{})
	go func() {
		defer close(done)
		tick := time.NewTicker(watchEvery)
		defer tick.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
				if err := s.WatchSensors(ctx); err != nil && ctx.Err() == nil {
					slog.Warn("the sensors could not be watched over", "error", err)
				}
			}
		}
	}()
	return func() {
		cancel()
		heard.Close()
		<-done
	}
}
