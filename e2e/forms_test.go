package e2e

import (
	"encoding/json"
	"fmt"
)

// form is a size and density in which every view is looked at.
type form struct {
	width, height int64
	density       string
	text          float64 // least size of text, px
	target        float64 // least side of what is touched, px; 0 where a mouse points
	contrast      bool    // its contrast is looked at, in light and in the dark
}

// The forms: contrast is looked at in the widest and the narrowest; roomy is looked at where fingers are, on a tablet
// and a phone.
var forms = []form{
	{width: 1280, height: 800, density: "compact", text: 13, contrast: true},
	{width: 800, height: 1280, density: "roomy", text: 16, target: 40},
	{width: 390, height: 844, density: "roomy", text: 16, target: 40, contrast: true},
}

// measuring finds what is wrong with a page's layout. Of the small parts of a drawing, and of
// what is there for screen readers alone, nothing is asked; links within a sentence are as
// high as its lines.
const measuring = `(({text, target}) => {
	const found = [];
	const root = document.documentElement;
	const shown = (e) => e.checkVisibility({visibilityProperty: true}) && e.getClientRects().length > 0 &&
		!e.closest('.sr-only, svg, [aria-hidden=true]');
	const name = (e) => e.tagName.toLowerCase() + ' ' + (e.innerText || e.ariaLabel || e.id || e.className).slice(0, 40);
	const scrolls = (e) => { for (let up = e.parentElement; up && up !== document.body; up = up.parentElement)
		if (getComputedStyle(up).overflowX !== 'visible') return true; return false; };
	if (root.scrollWidth > innerWidth) {
		const wide = [...document.querySelectorAll('body *')].filter((e) => shown(e) && !scrolls(e) &&
			e.getBoundingClientRect().right > innerWidth + 1);
		found.push('too wide, ' + root.scrollWidth + ': ' + wide.slice(0, 3).map(name).join(' | '));
	}
	const small = new Set();
	const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	while (words.nextNode()) {
		const e = words.currentNode.parentElement;
		if (words.currentNode.data.trim() && shown(e) && !e.closest('option, script, style') &&
			parseFloat(getComputedStyle(e).fontSize) < text - 0.01) small.add(name(e));
	}
	if (small.size) found.push('text under ' + text + ' px: ' + [...small].slice(0, 3).join(' | '));
	const cut = [...document.querySelectorAll('body *')].filter((e) => e.scrollWidth > e.clientWidth + 1 && !e.title &&
		!['INPUT', 'SELECT', 'TEXTAREA'].includes(e.tagName) && ['hidden', 'clip'].includes(getComputedStyle(e).overflowX) &&
		!e.closest('[title]') && shown(e) && e.innerText?.trim());
	if (cut.length) found.push('cut off: ' + cut.slice(0, 3).map(name).join(' | '));
	if (target) {
		const low = [...document.querySelectorAll('button, a[href], select, textarea, summary,' +
			'input:not([type=checkbox]):not([type=radio]):not(.sr-only), label:has(input[type=checkbox], input[type=radio])')]
			.filter((e) => shown(e) && getComputedStyle(e).display !== 'inline' && !e.matches('main a[href^="#"]') &&
				e.getBoundingClientRect().height < target - 0.5);
		if (low.length) found.push('under ' + target + ' px high: ' + low.slice(0, 4).map(name).join(' | '));
	}
	return JSON.stringify(found);
})`

// contrasting finds text that stands out too little from what is behind it: 4.5 to 1, or 3 to 1 for large text. Of what
// is disabled, or has a picture or a gradient behind it, nothing is said.
// Source: WCAG 2.2, success criterion 1.4.3, with its relative luminance.
const contrasting = `(() => {
	const found = new Set();
	const rgba = window.rgba ??= new Map();
	const pen = window.pen ??= new OffscreenCanvas(1, 1).getContext('2d', {willReadFrequently: true});
	const colour = (text) => {
		if (!rgba.has(text)) {
			pen.clearRect(0, 0, 1, 1);
			pen.fillStyle = text;
			pen.fillRect(0, 0, 1, 1);
			const [r, g, b, a] = pen.getImageData(0, 0, 1, 1).data;
			rgba.set(text, [r, g, b, a / 255]);
		}
		return rgba.get(text);
	};
	const over = (top, below) => [0, 1, 2].map((i) => top[i] * top[3] + below[i] * (1 - top[3])).concat(1);
	const channel = (c) => (c /= 255) <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
	const light = (c) => 0.2126 * channel(c[0]) + 0.7152 * channel(c[1]) + 0.0722 * channel(c[2]);
	const behind = window.behind = new Map();
	const back = (e) => { // undefined where it cannot be told
		if (!e) return colour(getComputedStyle(document.documentElement).backgroundColor);
		if (!behind.has(e)) {
			const s = getComputedStyle(e);
			const under = s.backgroundImage !== 'none' ? undefined : back(e.parentElement);
			const own = colour(s.backgroundColor);
			behind.set(e, own[3] === 1 && s.backgroundImage === 'none' ? own : under && over(own, under));
		}
		return behind.get(e);
	};
	const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	while (words.nextNode()) {
		const e = words.currentNode.parentElement;
		if (!words.currentNode.data.trim() ||
			e.closest('.sr-only, svg, option, script, style, :disabled, [aria-disabled=true]') ||
			!e.checkVisibility({visibilityProperty: true, opacityProperty: true}) || !e.getClientRects().length) continue;
		const s = getComputedStyle(e), on = back(e);
		if (!on) continue;
		let ink = colour(s.color), opacity = 1;
		for (let up = e; up; up = up.parentElement) opacity *= getComputedStyle(up).opacity;
		ink = over([ink[0], ink[1], ink[2], ink[3] * opacity], on);
		const [hi, lo] = [light(ink), light(on)].sort((a, b) => b - a), ratio = (hi + 0.05) / (lo + 0.05);
		const px = parseFloat(s.fontSize), large = px >= 24 || px >= 18.66 && s.fontWeight >= 700;
		if (ratio < (large ? 3 : 4.5) - 0.005) found.add(ratio.toFixed(2) + ' to 1: ' + e.tagName.toLowerCase() + ' ' +
			words.currentNode.data.trim().slice(0, 40));
	}
	return JSON.stringify([...found].slice(0, 4));
})()`

// contrast lists what stands out too little on the page as it stands.
func (p *page) contrast() (found []string) {
	p.t.Helper()
	if err := json.Unmarshal([]byte(value[string](p, contrasting)), &found); err != nil {
		p.t.Fatal(err)
	}
	return found
}

// measure lists what is wrong with the page's layout as it stands.
func (p *page) measure(f form) (found []string) {
	p.t.Helper()
	text := value[string](p, fmt.Sprintf(`%s({text: %g, target: %g})`, measuring, f.text, f.target))
	if err := json.Unmarshal([]byte(text), &found); err != nil {
		p.t.Fatal(err)
	}
	return found
}
