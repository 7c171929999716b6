package coatrack_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Imports run one way: core, then files and store, then app, then api, then cmd.
// core knows no SQL, HTTP, files, clock, randomness or goroutines' tools, and its
// areas do not know one another.
func TestImportsRunOneWay(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}{{range .Imports}} {{.}}{{end}}`, "./...").Output()
	require.NoError(t, err)
	level := func(p string) int {
		for i, prefix := range []string{"coatrack/internal/core/", "coatrack/internal/vault", "coatrack/internal/files", "coatrack/internal/store", "coatrack/internal/app", "coatrack/internal/jobs", "coatrack/internal/api", "coatrack/internal/plan", "coatrack/cmd"} {
			if strings.HasPrefix(p, prefix) {
				return i
			}
		}
		return -1
	}
	areas := map[string]bool{"opening": true, "payroll": true, "payees": true, "returns": true, "sources": true}
	banned := map[string]bool{"database/sql": true, "net/http": true, "os": true, "math/rand": true, "math/rand/v2": true, "crypto/rand": true, "sync": true, "context": true, "io/fs": true}
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		f := strings.Fields(line)
		pkg, from := f[0], level(f[0])
		if from < 0 {
			continue
		}
		seen++
		for _, imp := range f[1:] {
			if to := level(imp); to > from && !strings.Contains(pkg, "pgtest") {
				t.Errorf("%s imports %s, against the arrows", pkg, imp)
			}
			if from == 0 {
				require.False(t, banned[imp] || strings.Contains(imp, "gorm") || strings.Contains(imp, "pgx") || strings.Contains(imp, "chi"), "%s imports %s", pkg, imp)
				a, b := pkg[strings.LastIndexByte(pkg, '/')+1:], imp[strings.LastIndexByte(imp, '/')+1:]
				require.False(t, areas[a] && areas[b] && strings.HasPrefix(imp, "coatrack/"), "%s imports %s", pkg, imp)
			}
		}
	}
	require.Greater(t, seen, 10)
}

// rooms are those of internal/app in their order, each with the rooms that it may import: only such
// as come before it.
var rooms = []struct{ name, may string }{
	{"act", ""},
	{"fold", "act"},
	{"sheet", "act"},
	{"accounts", "act fold sheet"},
	{"parties", "act accounts sheet"},
	{"rack", "act accounts parties sheet"},
	{"openings", "act accounts parties rack sheet"},
	{"outside", "act sheet"},
	{"payroll", "act accounts fold openings outside rack sheet"},
	{"payees", "act accounts parties rack sheet"},
	{"books", "act accounts fold openings parties payroll rack sheet"},
	{"proofs", "act accounts fold openings parties payees payroll rack sheet"},
	{"clients", "act accounts fold openings payees proofs rack sheet"},
	{"handoff", "act accounts books clients fold openings parties payees payroll proofs rack sheet"},
	{"longacts", "act clients openings sheet"},
}

// The rooms of internal/app import one another one way only, as the list allows; what is not on it
// is no room.
func TestRoomsImportOneWay(t *testing.T) {
	const app = "coatrack/internal/app/"
	place, may := map[string]int{}, map[string]string{}
	for i, r := range rooms {
		place[r.name], may[r.name] = i, r.may
		for _, m := range strings.Fields(r.may) {
			at, ok := place[m]
			require.True(t, ok && at < i, "%s may import %s only if it comes before", r.name, m)
		}
	}
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}{{range .Imports}} {{.}}{{end}}`, "./internal/app/...").Output()
	require.NoError(t, err)
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		f := strings.Fields(line)
		room, ok := strings.CutPrefix(f[0], app)
		if !ok {
			continue // the facade, which holds them all
		}
		require.Contains(t, place, room, "a room without a place in the order")
		seen++
		for _, imp := range f[1:] {
			if to, ok := strings.CutPrefix(imp, app); ok {
				require.Contains(t, strings.Fields(may[room]), to, "%s imports %s", room, to)
			}
		}
	}
	require.Len(t, rooms, seen)
}
