package curve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/unit"
)

func TestCurvesAreReadInTheirUnits(t *testing.T) {
	want := []cure.CurvePoint{
		{T: 0, Temperature: unit.Kelvin(20)},
		{T: 3600, Temperature: unit.Kelvin(120), Pressure: 6.2e5},
	}
	for says, raw := range map[string]string{
		"metric":         "time, min,note,set point (°C),pressure kPa\n0,begin,20,0\n60,up,120,620\n",
		"imperial":       "temperature °F;time (h);pressure [psi]\n68;0;0\n248;1;89.9235\n",
		"decimal commas": "time s;set point °C;pressure bar\n0;20,0;0\n3600;120,0;6,2\n",
		"a logger's": "time s\tair °C\tset point K\tvacuum kPa\tpressure " +
			"MPa\n0\t18\t293.15\t80\t0\n3600\t110\t393.15\t80\t0.62\n",
		"columns out back": "pressure Pa,temperature K,time h\n0,293.15,0\n620000,393.15,1\n",
	} {
		// The header of the first has a comma of its own, as people type it.
		if says == "metric" {
			raw = "\"time, min\"" + raw[len("time, min"):]
		}
		got, faults := Read([]byte(raw))
		require.Empty(t, faults, says)
		require.Len(t, got, 2, says)
		for i := range want {
			assert.InDelta(t, want[i].T, got[i].T, 1e-9, says)
			assert.InDelta(t, want[i].Temperature, got[i].Temperature, 1e-9, says)
			assert.InDelta(t, want[i].Pressure, got[i].Pressure, 1, says)
		}
	}
}

func TestCurvesThatCannotBeReadAreNamed(t *testing.T) {
	for says, raw := range map[string]string{
		"no column is a time":         "x,temperature °C\n1,2\n3,4\n",
		"no column is a temperature":  "time s,y\n1,2\n3,4\n",
		"two points at least":         "time s,temperature °C\n",
		"row 3: temperature: \"hot\"": "time s,temperature °C\n0,20\n60,hot\n",
		"row 2: time: is missing":     "time s,temperature °C\n,20\n60,30\n",
		"neither a CSV text file":     "\x00\x01",
	} {
		out, faults := Read([]byte(raw))
		assert.Empty(t, out, says)
		require.NotEmpty(t, faults, says)
		assert.Contains(t, faults[0], says)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("time s,temperature °C\n0,20\n60,30\n"))
	f.Add([]byte("pressure psi;t h;T °F\n1;2;3\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		out, faults := Read(raw)
		if len(faults) > 0 {
			assert.Empty(t, out)
		}
	})
}
