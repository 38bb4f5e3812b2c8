package people

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a hash costs is written in it (the form of the argon2 reference program). The figures
// are OWASP's advice for argon2id, from memory: 19 MiB, two passes, one lane.
func TestASecretIsDearToHash(t *testing.T) {
	hash, err := hashed(context.Background(), "a secret of the test")
	require.NoError(t, err)
	assert.Regexp(t, `^\$argon2id\$v=19\$m=19456,t=2,p=1\$[^$]{22}\$[^$]{43}$`, hash)
	for secret, want := range map[string]bool{"a secret of the test": true, "a secret of the Test": false, "": false} {
		got, err := matches(context.Background(), secret, hash)
		require.NoError(t, err)
		assert.Equal(t, want, got, secret)
	}
}
