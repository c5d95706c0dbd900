package demo_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/rehearsal"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store/storetest"
)

func TestTheChargesSheetComputesItsTariff(t *testing.T) {
	s := storetest.Open(t)
	require.NoError(t, demo.Load(context.Background(), s, "slipway-charges.pdf"))
	d, err := s.Draft(t.Context(), 1)
	require.NoError(t, err)
	in, err := rules.NewSession(d.Template.Fields, time.Now())
	require.NoError(t, err)
	for _, a := range [][2]string{{"hauling_out_quantity", "1"}, {"cradle_day_quantity", "3"}, {"storage_ashore_week_quantity", "26"}} {
		_, err := in.Set(a[0], a[1])
		require.NoError(t, err)
	}
	assert.Equal(t, "1,605.50", in.Shown("storage_ashore_week_amount"))
	assert.Equal(t, "1,787.75", in.Shown("total_amount"), "145.50 + 36.75 + 1,605.50")
	_, err = in.Set("date", time.Now().AddDate(0, 0, 2).Format("02.01.2006"))
	assert.EqualError(t, err, "A charge cannot be dated ahead.")
	report, err := rehearsal.Run(d.Template.Fields, d.Template.Pages, look.TextFits, nil, time.Now())
	require.NoError(t, err)
	assert.Empty(t, report.Lines, "twenty people come through")
	for _, x := range snags.Find(&d.Template, nil, time.Now()) {
		assert.NotEqual(t, snags.Serious, x.Severity, x.Why)
	}
}
