package clients

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"unicode/utf8"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/store"

	"golang.org/x/crypto/argon2"
	"gorm.io/gorm"
)

// Parameters of argon2id: 64 MiB would be felt with many sign-ins at once on two
// cores; 19 MiB with two passes is the published minimum for interactive use.
const (
	argonTime   = 2
	argonMemory = 19 * 1024
	argonKey    = 32
)

func hashPassword(pw string) string {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		panic(err)
	}
	h := argon2.IDKey([]byte(pw), salt, argonTime, argonMemory, 1, argonKey)
	return fmt.Sprintf("argon2id$%d$%d$%s$%s", argonTime, argonMemory, base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(h))
}

func checkPassword(stored, pw string) bool {
	var time, mem uint32
	parts := strings.Split(stored, "$")
	if len(parts) != 5 {
		return false
	}
	if _, err := fmt.Sscanf(parts[1]+" "+parts[2], "%d %d", &time, &mem); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[3])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[4])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(pw), salt, time, mem, 1, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// dummyHash makes a sign-in with an unknown e-mail take as long as one with a
// wrong password.
var dummyHash = hashPassword("nobody has this password")

// SignIn checks e-mail and password and returns the person.
func (a Acts) SignIn(ctx context.Context, email, password string) (act.Who, error) {
	var w act.Who
	email = strings.TrimSpace(email)
	right, err := sheet.Of(a.App).Guess(ctx, email)
	if err != nil {
		return w, err
	}
	err = a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		var ps []store.Person
		if err := t.Where("lower(email) = lower(?) and active", email).Find(&ps).Error; err != nil {
			return err
		}
		hash := dummyHash
		if len(ps) == 1 {
			hash = ps[0].PasswordHash
		}
		if !checkPassword(hash, password) || len(ps) != 1 {
			return act.Fail(act.Unsigned, "wrong-sign-in", "that e-mail and password do not belong together")
		}
		w = act.Who{Person: ps[0]}
		return nil
	})
	if err == nil {
		err = right()
	}
	return w, err
}

// PersonByID returns a person who may still sign in.
func (a Acts) PersonByID(ctx context.Context, id int64) (act.Who, error) {
	var w act.Who
	err := a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		return t.Where("id = ? and active", id).Take(&w.Person).Error
	})
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return w, act.Fail(act.Unsigned, "not-signed-in", "sign in first")
	case err != nil:
		return w, err // not known: the database is away, say
	}
	return w, nil
}

// NewPerson is a person to be added by the operator.
type NewPerson struct {
	Firm, Email, Name, Role, Password string
}

// AddPerson makes a person, and the firm if it is not there yet. It is an act of
// the operator (coatrack user), not of the API.
func (a Acts) AddPerson(ctx context.Context, firmID int64, p NewPerson) (int64, error) {
	if _, err := mail.ParseAddress(p.Email); err != nil {
		return 0, act.Fail(act.Invalid, "bad-email", "%q is not an e-mail address", p.Email)
	}
	if err := goodPassword(p.Password, p.Email); err != nil {
		return 0, err
	}
	if _, ok := act.Rights[p.Role]; !ok {
		return 0, act.Fail(act.Invalid, "bad-role", "%q is not a role; use owner, bookkeeper, reviewer or contributor", p.Role)
	}
	var id int64
	err := a.Store.InFirm(ctx, firmID, 0, func(t *store.Tx) error {
		row := store.Person{FirmID: firmID, Email: p.Email, Name: p.Name, Initials: act.Initials(p.Name), Role: p.Role, PasswordHash: hashPassword(p.Password), Active: true, CreatedAt: a.Now()}
		if err := t.Create(&row).Error; err != nil {
			return err
		}
		id = row.ID
		return nil
	})
	return id, err
}

func goodPassword(pw, email string) error {
	if n := utf8.RuneCountInString(pw); n < 10 {
		return act.Fail(act.Invalid, "weak-password", "the password has %d characters; use at least 10", n)
	}
	low := strings.ToLower(strings.TrimSpace(pw))
	local, _, _ := strings.Cut(strings.ToLower(email), "@")
	switch {
	case commonPasswords[low]:
		return act.Fail(act.Invalid, "common-password", "that password is among the commonest there are, and tried first by anyone who guesses; choose another")
	case low == strings.ToLower(email) || len(local) > 3 && strings.Trim(strings.ReplaceAll(low, local, ""), "0123456789.@-_! ") == "":
		return act.Fail(act.Invalid, "own-address", "the password is your own address; choose another")
	case strings.Trim(low, low[:1]) == "":
		return act.Fail(act.Invalid, "common-password", "the password is one character again and again; choose another")
	}
	return nil
}

// commonPasswords are the commonest of ten characters and more, as lists of leaked passwords
// have them again and again.
var commonPasswords = func() map[string]bool {
	m := map[string]bool{}
	for _, p := range strings.Fields(`1234567890 0123456789 0987654321 9876543210 12345678910 123456789a 1234567891 12345678901 123456789q 123456123456 1q2w3e4r5t 1q2w3e4r5t6y 1qaz2wsx3edc qwertyuiop qwertyuiop1 qwerty12345 qwerty123456 qwertyuiop123 qwerty1234 asdfghjkl1 asdfghjkl; zxcvbnm123 zaq12wsxcde3 1qazxsw23edc password12 password123 password1234 password12345 password123456 passw0rd123 p@ssw0rd123 p@ssword123 password1! password!1 mypassword mypassword1 newpassword changeme123 changeme12 letmein123 letmein1234 welcome123 welcome1234 welcome2024 welcome2025 welcome2026 admin12345 admin123456 administrator iloveyou12 iloveyou123 iloveyou1234 iloveyouso football123 football12 baseball12 baseball123 basketball superman123 batman1234 princess12 princess123 sunshine12 sunshine123 michael123 jennifer12 jennifer123 charlie123 liverpool1 manchester chocolate1 strawberry butterfly1 rainbow123 summer2024 summer2025 summer2026 winter2024 winter2025 winter2026 spring2026 autumn2026 january2026 monkey1234 dragon1234 master1234 shadow1234 computer12 computer123 internet12 internet123 abcdefghij abcdefghijk abcd123456 abc1234567 abc123456789 a123456789 aa12345678 aa123456789 q1w2e3r4t5 q1w2e3r4t5y6 trustno123 whatever12 starwars12 starwars123 pokemon123 bookkeeper bookkeeping accounting accountant accounting1 quarterend taxseason1`) {
		m[p] = true
	}
	return m
}()

// ResetPassword sets a password and ends all sessions and tokens of the person.
func (a Acts) ResetPassword(ctx context.Context, email, password string) error {
	if err := goodPassword(password, email); err != nil {
		return err
	}
	return a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		r := t.Exec(`update person set password_hash = ? where lower(email) = lower(?)`, hashPassword(password), email)
		if r.Error == nil && r.RowsAffected == 0 {
			return act.Fail(act.NotFound, "no-such-person", "nobody has the e-mail %s", email)
		}
		if r.Error != nil {
			return r.Error
		}
		if err := t.Exec(`delete from password_try where account = ?`, sheet.AccountDigest(email)).Error; err != nil {
			return err
		}
		return t.Exec(`update api_token set revoked_at = ? where revoked_at is null and person_id in (select id from person where lower(email) = lower(?))`, a.Now(), email).Error
	})
}

// Token is an API token as its owner sees it; Secret is there once, when made.
type Token struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Made     string `json:"made"`
	LastUsed string `json:"last_used,omitempty"`
	Secret   string `json:"secret,omitempty" doc:"shown once, when the token is made"`
}

// MakeToken makes a token for the person.
func (a Acts) MakeToken(ctx context.Context, who act.Who, name string) (Token, error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return Token{}, act.Fail(act.Invalid, "no-name", "name the token after what will use it")
	}
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return Token{}, err
	}
	secret := "ct_" + base64.RawURLEncoding.EncodeToString(raw)
	sum := sha256.Sum256([]byte(secret))
	row := store.APIToken{PersonID: who.Person.ID, Name: name, Hash: sum[:], CreatedAt: a.Now()}
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error { return t.Create(&row).Error })
	return Token{ID: row.ID, Name: name, Made: act.Stamp(row.CreatedAt), Secret: secret}, err
}

// Tokens lists the person's living tokens.
func (a Acts) Tokens(ctx context.Context, who act.Who) ([]Token, error) {
	out := []Token{}
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		var rows []store.APIToken
		if err := t.Where("person_id = ? and revoked_at is null", who.Person.ID).Order("id").Find(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			tok := Token{ID: r.ID, Name: r.Name, Made: act.Stamp(r.CreatedAt)}
			if r.LastUsedAt != nil {
				tok.LastUsed = act.Stamp(*r.LastUsedAt)
			}
			out = append(out, tok)
		}
		return nil
	})
	return out, err
}

// RevokeToken ends a token of the person.
func (a Acts) RevokeToken(ctx context.Context, who act.Who, id int64) error {
	return a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		r := t.Exec(`update api_token set revoked_at = ? where id = ? and person_id = ? and revoked_at is null`, a.Now(), id, who.Person.ID)
		if r.Error == nil && r.RowsAffected == 0 {
			return act.ErrNotFound
		}
		return r.Error
	})
}

// ByToken returns the person a token belongs to.
func (a Acts) ByToken(ctx context.Context, secret string) (act.Who, error) {
	sum := sha256.Sum256([]byte(secret))
	var id int64
	err := a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		return t.Raw(`update api_token set last_used_at = ? where hash = ? and revoked_at is null returning person_id`, a.Now(), sum[:]).Scan(&id).Error
	})
	switch {
	case err != nil:
		return act.Who{}, err
	case id == 0:
		return act.Who{}, act.Fail(act.Unsigned, "not-signed-in", "the token is not known or was revoked")
	}
	return a.PersonByID(ctx, id)
}

// EndSessions ends every session of a person.
func (a Acts) EndSessions(ctx context.Context, who act.Who) error {
	return a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		return t.Exec(`update person set session_epoch = session_epoch + 1 where id = ?`, who.Person.ID).Error
	})
}

// ChangePassword sets a new password for a person who knows the old one.
func (a Acts) ChangePassword(ctx context.Context, who act.Who, old, next string) error {
	right, err := sheet.Of(a.App).Guess(ctx, who.Person.Email)
	if err != nil {
		return err
	}
	if !checkPassword(who.Person.PasswordHash, old) {
		return act.Fail(act.Invalid, "wrong-password", "the present password is not that")
	}
	if err := right(); err != nil {
		return err
	}
	return a.ResetPassword(ctx, who.Person.Email, next)
}

// EnsureFirm returns the firm of a name, making it if it is not there: an act of
// the operator.
func (a Acts) EnsureFirm(ctx context.Context, name string) (int64, error) {
	var id int64
	err := a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		if err := t.Raw(`select id from firm where name = ?`, name).Scan(&id).Error; err != nil || id != 0 {
			return err
		}
		return t.Raw(`insert into firm (name) values (?) returning id`, name).Scan(&id).Error
	})
	return id, err
}

// FirmOf returns the name of the person's firm and how many people it has.
func (a Acts) FirmOf(ctx context.Context, who act.Who) (name string, people int, err error) {
	err = a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		if err := t.Raw(`select name from firm where id = ?`, who.Person.FirmID).Scan(&name).Error; err != nil {
			return err
		}
		return t.Raw(`select count(*)::int from person where firm_id = ? and active`, who.Person.FirmID).Scan(&people).Error
	})
	return name, people, err
}

// PersonByEmail finds a person for an act of the operator.
func (a Acts) PersonByEmail(ctx context.Context, email string) (act.Who, error) {
	var w act.Who
	err := a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		return t.Where("lower(email) = lower(?) and active", email).Take(&w.Person).Error
	})
	if err != nil {
		return w, act.Fail(act.NotFound, "no-such-person", "nobody has the e-mail %s", email)
	}
	return w, nil
}
