package e2e

import (
	"os"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

func (p *page) shot(name string) {
	p.t.Helper()
	png, err := chromedp.Run(p.ctx, chromedp.FullScreenshot(100))
	require.NoError(p.t, err)
	require.NoError(p.t, os.MkdirAll("/tmp/shots", 0o755))
	require.NoError(p.t, os.WriteFile("/tmp/shots/"+name+".png", png, 0o644))
}

func TestZZ(t *testing.T) {
	h := openHouse(t)
	p := openPage(t, h.url)
	v := h.named(t, "SP-25")
	p.visit("/parts/" + v.Part.Code + "?view=route")
	p.signIn("Marek Orde", password)
	p.see("10 operations, longest way")
	p.at("cure")
	p.see("Run: whose")
	p.set("Run: whose", "its own")
	p.see("Name of the recipe")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("summary").click()`))
	p.see("If it runs as planned")
	p.see("Kept")
	p.shot("heat")
	p.at("close")
	p.set("Closing: whose", "its own")
	p.see("Closed with")
	p.shot("closing")
}
