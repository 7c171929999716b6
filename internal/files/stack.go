package files

import (
	"bytes"
	"fmt"
	"io"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
)

// WriteStack lays papers one behind the other in one PDF, so that they print in one go.
// Each paper keeps its pages.
func WriteStack(w io.Writer, papers [][]byte) error {
	if len(papers) == 1 {
		_, err := w.Write(papers[0])
		return err
	}
	api.DisableConfigDir() // it would keep settings in a home directory
	in := make([]io.ReadSeeker, len(papers))
	for i, p := range papers {
		in[i] = bytes.NewReader(p)
	}
	conf := model.NewDefaultConfiguration()
	conf.CreateBookmarks = false
	if err := api.MergeRaw(in, w, false, conf); err != nil {
		return fmt.Errorf("the papers cannot be laid together: %w", err)
	}
	return nil
}
