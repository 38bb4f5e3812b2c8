package e2e

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

// A kit is nested on an off-cut and a roll, with the gap said by hand, wrongly at first; each of the two is a nest of
// its own then, and a ply of one is looked at from near.
func TestAKitIsNestedOnSeveralRolls(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	long := h.opened(t, "SU-2291")
	kept, err := h.shop.KeepOffCut(ctx, h.as(t, "Tilda Brandl"), long, stock.NewOffCut{
		Outline: geom.Ring{{X: 0, Y: 0}, {X: 1.4, Y: 0}, {X: 1.4, Y: 0.6}, {X: 0, Y: 0.6}},
	})
	require.NoError(t, err)
	short := kept.Code
	p := openPage(t, h)
	p.visit("/cut")
	p.signIn("Tilda Brandl", pin)
	p.see("From which roll?")
	p.click("Sable UD 150")
	p.click("How it is cut")
	p.fill("Gap for the knife, mm", "two")
	p.see("is not a number")
	p.fill("Gap for the knife, mm", "1,5")
	p.fill("Search time, s", "2")
	p.click(short)
	p.click("More rolls and off-cuts")
	p.click(long + " roll")
	p.axe("a nest on several rolls is asked for")
	p.click("and 1 more")
	p.see("The search has ended")
	p.see(": nest N-")
	all, err := h.shop.Nests(ctx)
	require.NoError(t, err)
	require.Equal(t, "done", all[0].State)
	var mine cutting.NestView
	for _, n := range all[:2] {
		v, err := h.shop.Nest(ctx, n.Code)
		require.NoError(t, err)
		require.InDelta(t, 0.0015, v.Gap, 1e-12)
		if v.Roll == short {
			mine = v
		}
	}
	require.Len(t, mine.Others, 1)
	p.set("Look at", mine.Placed[0].Label)
	p.until("the ply fills the drawing", `[...document.querySelectorAll("svg[role=img] g path")].some((e) =>
		e.getBoundingClientRect().width > 500 || e.getBoundingClientRect().height > 240)`)
	p.click("nest " + mine.Others[0].Nest)
	p.see(mine.Others[0].Roll)
}
