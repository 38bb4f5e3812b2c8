package device

import (
	"encoding/binary"
	"io"
	"math"
	"net"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
)

// Whatever a logger publishes: a reading, or a fault in words. What of it is kept
// is judged by the shop.
func FuzzReadClimate(f *testing.F) {
	for _, s := range []string{
		`{"at":"2026-03-02T08:00:00Z","temperature":-18.4,"humidity":41}`, `{"temperature":1e308}`, `{"humidity":null}`,
		`{"temperature":"12"}`, `[]`, `{"at":"yesterday","temperature":1}`, "\xff\xfe",
		`{"temperature":1}{"temperature":2}`,
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, payload []byte) {
		r, err := ReadClimate(payload)
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		require.True(t, r.Temperature != nil || r.Humidity != nil)
		for _, v := range []*float64{r.Temperature, r.Humidity} {
			require.True(t, v == nil || !math.IsNaN(*v) && !math.IsInf(*v, 0))
		}
	})
}

// Whatever answers at the oven's address: a reading of the registers asked for,
// or a fault; never a wait without end and never half a reading.
func FuzzOvenAnswers(f *testing.F) {
	frame := func(unit, function byte, registers ...uint16) []byte {
		body := []byte{unit, function, byte(2 * len(registers))}
		for _, r := range registers {
			body = binary.BigEndian.AppendUint16(body, r)
		}
		head := []byte{0, 0, 0, 0}
		return append(binary.BigEndian.AppendUint16(head, uint16(len(body))), body...)
	}
	f.Add(frame(1, 4, 1213, 1200, 0x8000, 0xFF9C, 8000, 0, 60, 1))
	f.Add(frame(1, 4, 1213))
	f.Add(frame(1, 4))
	f.Add(frame(1, 0x84, 2))
	f.Add(frame(7, 3, 1, 2, 3, 4, 5, 6, 7, 8))
	f.Add([]byte("HTTP/1.1 400 Bad Request\r\n\r\n"))
	f.Add([]byte{})
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(f, err)
	f.Cleanup(func() { _ = l.Close() })
	var says atomic.Pointer[[]byte]
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			ask := make([]byte, 12)
			if _, err := io.ReadFull(c, ask); err == nil {
				answer := *says.Load()
				if len(answer) >= 2 {
					copy(answer, ask[:2]) // the transaction that was asked
				}
				_, _ = c.Write(answer)
			}
			_ = c.Close()
		}
	}()
	f.Fuzz(func(t *testing.T, answer []byte) {
		own := append([]byte{}, answer...)
		says.Store(&own)
		oven, err := Dial(l.Addr().String())
		require.NoError(t, err)
		defer oven.Close()
		r, err := oven.Read()
		if err != nil {
			require.Contains(t, err.Error(), "read the oven")
			require.Equal(t, Reading{}, r)
			return
		}
		for _, v := range []float64{r.Air, r.Tool, r.Lead, r.Lag} {
			require.True(t, math.IsNaN(v) || v > -3100 && v < 3600, "what a register can say")
		}
		require.GreaterOrEqual(t, r.Clock, 0.0)
	})
}
