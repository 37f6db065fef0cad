package people

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"ulvant/core/onetime"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
)

// The second factor is a code from an app that shares a secret with us
// (core/onetime). A code works once. Ten recovery codes stand in for a lost app.

const recoveryCodes = 10

// ErrCode is a second factor that is not right.
var ErrCode = refusal.In("code", "This code is not right, or was used already. Wait for the next one and type that.")

// Second is a second factor that is being set up.
type Second struct {
	Secret string // base32, to type into the app
	URL    string // otpauth address, to show as a picture
}

// BeginSecond makes a secret for an account and keeps it, not yet in force.
func (s *Store) BeginSecond(ctx context.Context, tx *db.Tx, a Account) (Second, error) {
	raw := make([]byte, 20)
	if _, err := rand.Read(raw); err != nil {
		return Second{}, err
	}
	sealed, err := s.seal(raw)
	if err != nil {
		return Second{}, err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE account SET second_secret = $2, second_step = 0 WHERE id = $1 AND second_at IS NULL`, a.ID,
		sealed); err != nil {
		return Second{}, err
	}
	return describe(a, raw)
}

// PendingSecond reads the secret that waits for its first code.
func (s *Store) PendingSecond(a Account) (Second, error) {
	raw, err := s.unseal(a.SecondSecret)
	if err != nil {
		return Second{}, err
	}
	return describe(a, raw)
}

func describe(a Account, raw []byte) (Second, error) {
	k, err := totp.Generate(totp.GenerateOpts{Issuer: "Ulvant", AccountName: a.Email, Secret: raw, Period: onetime.Period,
		Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
	if err != nil {
		return Second{}, err
	}
	return Second{k.Secret(), k.URL()}, nil
}

// TurnOnSecond puts the secret in force once a code of it was typed, and gives
// the recovery codes, which are not shown again.
func (s *Store) TurnOnSecond(ctx context.Context, tx *db.Tx, a Account, code string) ([]string, error) {
	if a.SecondAt != nil {
		return nil, refusal.In("code", "It is on already.")
	}
	step, err := s.stepOf(a, code, tx.At)
	if err != nil {
		return nil, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET second_at = $2, second_step = $3 WHERE id = $1`, a.ID, tx.At,
		step); err != nil {
		return nil, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM recovery_code WHERE account_id = $1`, a.ID); err != nil {
		return nil, err
	}
	var codes []string
	for range recoveryCodes {
		c := strings.ToLower(rand.Text()[:12])
		c = c[:4] + "-" + c[4:8] + "-" + c[8:]
		if _, err := tx.ExecContext(ctx, `INSERT INTO recovery_code (account_id, hash) VALUES ($1, $2)`, a.ID,
			hashCode(c)); err != nil {
			return nil, err
		}
		codes = append(codes, c)
	}
	return codes, s.note(ctx, tx, a.ID, say.SecondOn)
}

// TurnOffSecond switches it off, for whoever has a code of it or a recovery
// code: the password alone does not.
func (s *Store) TurnOffSecond(ctx context.Context, tx *db.Tx, account int64, code string) error {
	if err := s.UseSecond(ctx, tx, account, code); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE account SET second_at = NULL, second_secret = NULL WHERE id = $1`,
		account); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM recovery_code WHERE account_id = $1`, account); err != nil {
		return err
	}
	return s.note(ctx, tx, account, say.SecondOff)
}

// UseSecond takes a code or a recovery code at signing in; ErrCode when it is
// neither, or was used.
func (s *Store) UseSecond(ctx context.Context, tx *db.Tx, account int64, code string) error {
	var a Account
	if err := tx.GetContext(ctx, &a, `SELECT `+Columns+` FROM account WHERE id = $1 FOR UPDATE`, account); err != nil {
		return err
	}
	if a.SecondAt == nil {
		return nil
	}
	step, err := s.stepOf(a, code, tx.At)
	if err == nil {
		_, err = tx.ExecContext(ctx, `UPDATE account SET second_step = $2 WHERE id = $1`, account, step)
		return err
	}
	if !errors.Is(err, ErrCode) {
		return err
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE recovery_code SET used_at = $3 WHERE account_id = $1 AND hash = $2 AND used_at IS NULL`, account,
		hashCode(code), tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrCode
	}
	return s.note(ctx, tx, account, say.RecoveryUsed)
}

// RecoveryLeft counts the recovery codes that were not used.
func (s *Store) RecoveryLeft(ctx context.Context, account int64) (n int, err error) {
	err = s.DB.GetContext(ctx, &n, `SELECT count(*) FROM recovery_code WHERE account_id = $1 AND used_at IS NULL`, account)
	return n, err
}

// stepOf finds the time step that a code is of; a step that was used, or one
// before it, is no good.
func (s *Store) stepOf(a Account, code string, at time.Time) (int64, error) {
	raw, err := s.unseal(a.SecondSecret)
	if err != nil {
		return 0, err
	}
	step, ok := onetime.Step(raw, code, at, a.SecondStep)
	if !ok {
		return 0, ErrCode
	}
	return step, nil
}

func hashCode(code string) []byte {
	h := sha256.Sum256([]byte(strings.ToLower(strings.ReplaceAll(strings.TrimSpace(code), " ", ""))))
	return h[:]
}

func (s *Store) box() (cipher.AEAD, error) {
	key := sha256.Sum256(append([]byte("second:"), s.Links.Key...))
	block, err := aes.NewCipher(key[:])
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(block)
}

func (s *Store) seal(raw []byte) ([]byte, error) {
	box, err := s.box()
	if err != nil {
		return nil, err
	}
	nonce := make([]byte, box.NonceSize())
	if _, err := rand.Read(nonce); err != nil {
		return nil, err
	}
	return box.Seal(nonce, nonce, raw, nil), nil
}

func (s *Store) unseal(sealed []byte) ([]byte, error) {
	box, err := s.box()
	if err != nil {
		return nil, err
	}
	if len(sealed) < box.NonceSize() {
		return nil, ErrCode
	}
	raw, err := box.Open(nil, sealed[:box.NonceSize()], sealed[box.NonceSize():], nil)
	if err != nil {
		return nil, fmt.Errorf("the second factor was sealed with another key: %w", err)
	}
	return raw, nil
}
