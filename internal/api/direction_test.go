package api_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A name cannot be typed with a character that turns the direction of writing; a file of such a
// name is kept, and comes back under a name that shows what it is.
func TestNoNameTurnsWhatStandsBesideIt(t *testing.T) {
	o := withChart(t)
	for _, c := range []rune{0x202E, 0x2066, 0x200F, 0x061C} {
		name, err := json.Marshal("Bank" + string(c) + "00.01")
		require.NoError(t, err)
		status, p, _ := o.call(o.token, "POST", "/api/clients/1/accounts", `{"number":"9","name":`+string(name)+`,"kind":"asset","active":true}`)
		require.Equal(t, 422, status)
		require.Equal(t, "turned-text", p["code"])
		require.Contains(t, p["detail"], fmt.Sprintf("name holds a character that cannot be seen and turns the direction of writing (U+%04X)", c))
	}
	status, p, _ := o.call(o.token, "POST", "/api/clients/1/accounts", `{"number":"9","name":"בנק הפועלים","kind":"asset","active":true}`)
	require.Equal(t, 201, status, p)

	status, b, _ := o.call(o.token, "POST", "/api/clients/1/batches?as=trial-balance&name=tb%E2%80%AEvsc.csv", "Number,Name,Debit,Credit\n1,Bank,1.00,\n2,Rent,,1.00\n", "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status, b)
	req, err := http.NewRequest("GET", fmt.Sprintf("%s/api/clients/1/batches/%v/original", o.srv.URL, b["id"]), nil)
	require.NoError(t, err)
	req.Header.Set("Authorization", "Bearer "+o.token)
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	require.True(t, strings.HasSuffix(res.Header.Get("Content-Disposition"), "''tb_vsc.csv"), res.Header.Get("Content-Disposition"))
}
