package device

import (
	"encoding/json"
	"fmt"
	"log/slog"
	"time"

	mqtt "github.com/eclipse/paho.mqtt.golang"
)

// Topics is the filter of the topics that climate loggers publish on: one
// topic a sensor below it, such as juxta/freezer-1.
const Topics = "juxta/#"

// ClimateReading is what a logger publishes on a sensor's topic, as JSON: the time
// as RFC 3339, the temperature in °C and the relative humidity in %. Either
// value may be missing; without a time it counts from its arrival.
type ClimateReading struct {
	At          *time.Time `json:"at"`
	Temperature *float64   `json:"temperature"`
	Humidity    *float64   `json:"humidity"`
}

// ReadClimate reads a logger's message.
func ReadClimate(payload []byte) (ClimateReading, error) {
	var r ClimateReading
	if len(payload) > 4096 {
		return r, fmt.Errorf("a reading of %d bytes is none", len(payload))
	}
	if err := json.Unmarshal(payload, &r); err != nil {
		return r, fmt.Errorf("the reading is not JSON as expected: %w", err)
	}
	if r.Temperature == nil && r.Humidity == nil {
		return r, fmt.Errorf("the reading has neither a temperature nor a humidity")
	}
	return r, nil
}

// Climate listens to loggers through an MQTT broker.
type Climate struct{ client mqtt.Client }

// ListenClimate connects to a broker such as tcp://127.0.0.1:1883 and calls hear
// with each message, one at a time. It connects by itself again whenever the
// broker was away; id tells listeners of one shop apart.
func ListenClimate(broker, id string, hear func(topic string, payload []byte)) *Climate {
	o := mqtt.NewClientOptions().
		AddBroker(broker).
		SetClientID(id).
		SetConnectRetry(true).
		SetConnectRetryInterval(2 * time.Second).
		SetAutoReconnect(true).
		SetMaxReconnectInterval(15 * time.Second).
		SetOrderMatters(true)
	o.SetOnConnectHandler(func(c mqtt.Client) {
		token := c.Subscribe(Topics, 1, func(_ mqtt.Client, m mqtt.Message) { hear(m.Topic(), m.Payload()) })
		go func() {
			if token.WaitTimeout(10*time.Second) && token.Error() != nil {
				slog.Warn("the climate loggers cannot be listened to", "error", token.Error())
			}
		}()
	})
	client := mqtt.NewClient(o)
	client.Connect()
	return &Climate{client}
}

// Close stops listening.
func (c *Climate) Close() { c.client.Disconnect(200) }
