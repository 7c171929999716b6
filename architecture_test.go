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
