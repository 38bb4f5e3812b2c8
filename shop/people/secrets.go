package people

import (
	"context"
	_ "embed"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/semaphore"

	"juxta/shop/book"
)

// Secrets: what may be one, and how they are hashed. Hashing is dear on purpose,
// so it runs only where it is needed, a few at once, never while a connection to
// the database is held for it, and never over more than a secret can be.

// pinParams follow OWASP's advice for argon2id (19 MiB, 2 passes, 1 lane), as
// read from memory.
var pinParams = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashCheaply is for tests, which sign in often and keep nothing that is secret: the
// hash of a secret costs next to nothing from then on. It panics outside a test.
func HashCheaply() {
	if !testing.Testing() {
		panic("secrets are hashed cheaply in tests alone")
	}
	pinParams = &argon2id.Params{Memory: 8, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
}

const (
	longestSecret = 200 // bytes
	hashAtOnce    = 3
)

var hashing = semaphore.NewWeighted(hashAtOnce)

// hashed is the hash of a secret.
func hashed(ctx context.Context, secret string) (string, error) {
	if len(secret) > longestSecret {
		return "", book.Wrong.At("secret", "a secret has at most %d characters", longestSecret)
	}
	if err := hashing.Acquire(ctx, 1); err != nil {
		return "", err
	}
	defer hashing.Release(1)
	return argon2id.CreateHash(secret, pinParams)
}

// matches says whether a secret is that of a hash.
func matches(ctx context.Context, secret, hash string) (bool, error) {
	if hash == "" || len(secret) > longestSecret {
		return false, nil
	}
	if err := hashing.Acquire(ctx, 1); err != nil {
		return false, err
	}
	defer hashing.Release(1)
	match, err := argon2id.ComparePasswordAndHash(secret, hash)
	if err != nil {
		return false, fmt.Errorf("check the secret: %w", err)
	}
	return match, nil
}

//go:embed common_passwords.txt
var commonList string

// common are passwords that anybody tries first (common practice, no source:
// written down from memory, in lower case).
var common = func() map[string]bool {
	out := map[string]bool{}
	for _, line := range strings.Fields(commonList) {
		out[line] = true
	}
	return out
}()

var pinShape = regexp.MustCompile(`^\d{6,12}$`)

// EasyPIN says whether a PIN is one of those that are tried first: one that
// repeats itself, pairs and runs of digits, a date.
func EasyPIN(pin string) bool {
	n := len(pin)
	for period := 1; period <= n/2; period++ {
		repeats := true
		for i := period; i < n && repeats; i++ {
			repeats = pin[i] == pin[i-period]
		}
		if repeats {
			return true // 111111, 121212, 123123
		}
	}
	steps, pairs, mirror := map[int]bool{}, n%2 == 0, true
	for i := range n {
		if i > 0 {
			steps[(int(pin[i])-int(pin[i-1])+10)%10] = true
		}
		pairs = pairs && pin[i] == pin[i^1]
		mirror = mirror && pin[i] == pin[n-1-i]
	}
	if len(steps) == 1 || pairs || mirror || strings.Contains("01234567890123456789", pin) ||
		strings.Contains("98765432109876543210", pin) {
		return true // 123456, 135791, 112233, 123321
	}
	for _, layout := range []string{"020106", "010206", "060102", "02012006", "01022006", "20060102"} {
		if t, err := time.Parse(layout, pin); err == nil && (len(layout) == 6 || t.Year() > 1920 && t.Year() < 2060) {
			return true
		}
	}
	for _, known := range []string{
		"147258", "159753", "147852", "258369", "369258", "741852", "789456", "456789", "789123", "102030", "010203",
	} {
		if strings.HasPrefix(pin, known) {
			return true
		}
	}
	return false
}

// easyPassword says whether a password is one of those that are tried first: a
// common one, also with digits and marks around it, or one of few characters.
func easyPassword(password string) bool {
	low := strings.ToLower(password)
	bare := strings.Trim(low, "0123456789!?.-_#*+ ")
	different := map[rune]bool{}
	for _, r := range low {
		different[r] = true
	}
	if common[low] || common[bare] || len(different) < 5 {
		return true
	}
	// The same word again and again.
	for period := 1; period <= len(low)/2; period++ {
		if len(low)%period == 0 && strings.Repeat(low[:period], len(low)/period) == low {
			return true
		}
	}
	return false
}

// sound refuses what may not sign a role in. An empty password is fine where
// none is needed.
func sound(role, pin, password string) error {
	if !pinShape.MatchString(pin) {
		return book.Wrong.At("pin", "a PIN has 6 to 12 digits")
	}
	if EasyPIN(pin) {
		return book.Wrong.At(
			"pin",
			"this PIN is one of the first that anybody tries (a date, a run, pairs, something repeated): choose "+
				"another",
		)
	}
	if secretOf(role) == "password" && utf8.RuneCountInString(password) < 12 {
		return book.Wrong.At("password", "%s signs in with a password of at least 12 characters", book.Article(role))
	}
	if len(password) > longestSecret {
		return book.Wrong.At("password", "a password has at most %d characters", longestSecret)
	}
	if password != "" && easyPassword(password) {
		return book.Wrong.At("password", "this password is one of the first that anybody tries: choose another")
	}
	return nil
}

// hashes checks and hashes what signs a role in. An empty secret stays empty
// where it is not needed.
func hashes(ctx context.Context, role, pin, password string) (pinHash, passwordHash string, err error) {
	if err := sound(role, pin, password); err != nil {
		return "", "", err
	}
	if pinHash, err = hashed(ctx, pin); err != nil {
		return "", "", err
	}
	if password != "" {
		passwordHash, err = hashed(ctx, password)
	}
	return pinHash, passwordHash, err
}
