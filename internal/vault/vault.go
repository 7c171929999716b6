// Package vault seals what must not lie open in the database: the bytes of
// files, raw cells, tax ids. What is sealed is compressed, then encrypted with
// AES-256-GCM under the data key, which is kept outside the database. It keeps
// no state and never logs what passes through it.
package vault

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/klauspost/compress/zstd"
)

// Vault seals and opens with one key.
type Vault struct {
	gcm cipher.AEAD
	mac []byte // the key of marks, made from the data key
	enc *zstd.Encoder
	dec *zstd.Decoder
}

// New makes a vault for a key of 32 bytes.
func New(key []byte) (*Vault, error) {
	if len(key) != 32 {
		return nil, fmt.Errorf("the data key has %d bytes, it must have 32", len(key))
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	gcm, err := cipher.NewGCM(block)
	if err != nil {
		return nil, err
	}
	enc, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1), zstd.WithWindowSize(1<<20))
	if err != nil {
		return nil, err
	}
	dec, err := zstd.NewReader(nil, zstd.WithDecoderConcurrency(2), zstd.WithDecoderMaxMemory(1<<30))
	if err != nil {
		return nil, err
	}
	h := hmac.New(sha256.New, key)
	h.Write([]byte("marks"))
	return &Vault{gcm, h.Sum(nil), enc, dec}, nil
}

// Mark is a keyed hash of a text: the same text about the same thing has the same
// mark, and the mark says nothing else of it.
func (v *Vault) Mark(text, about string) []byte {
	h := hmac.New(sha256.New, v.mac)
	h.Write([]byte(about + "\x00" + text))
	return h.Sum(nil)[:16]
}

// Seal compresses and encrypts. about is bound to the result: what was sealed
// for one ledger cannot be opened as another's.
func (v *Vault) Seal(plain []byte, about string) []byte {
	n := v.gcm.NonceSize()
	out := make([]byte, n, n+len(plain)/2+64)
	if _, err := rand.Read(out); err != nil {
		panic(err) // no randomness: nothing may be written
	}
	return v.gcm.Seal(out, out[:n], v.enc.EncodeAll(plain, nil), []byte(about))
}

// ErrWrongKey is what opening with another key, or for another ledger, gives.
var ErrWrongKey = errors.New("this was sealed with another data key")

// Open undoes Seal.
func (v *Vault) Open(sealed []byte, about string) ([]byte, error) {
	n := v.gcm.NonceSize()
	if len(sealed) < n {
		return nil, ErrWrongKey
	}
	packed, err := v.gcm.Open(nil, sealed[:n], sealed[n:], []byte(about))
	if err != nil {
		return nil, ErrWrongKey
	}
	return v.dec.DecodeAll(packed, nil)
}

// LoadKey reads a key file of base64 text; if it is not there and make is set,
// one is made, readable by its owner only.
func LoadKey(path string, make bool) ([]byte, error) {
	b, err := os.ReadFile(path)
	if os.IsNotExist(err) && make {
		key := [32]byte{}
		if _, err := rand.Read(key[:]); err != nil {
			return nil, err
		}
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			return nil, err
		}
		return key[:], os.WriteFile(path, []byte(base64.StdEncoding.EncodeToString(key[:])+"\n"), 0o600)
	}
	if err != nil {
		return nil, err
	}
	key, err := base64.StdEncoding.DecodeString(strings.TrimSpace(string(b)))
	if err != nil {
		return nil, fmt.Errorf("%s does not hold a data key: %w", path, err)
	}
	return key, nil
}
