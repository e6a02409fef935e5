package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// A lead adds a person, who signs in, changes the password and is signed out by the lead.
func TestAPersonIsAdded(t *testing.T) {
	t.Parallel()
	lead := open(t, 1280, 800)
	lead.signIn("lead")
	lead.visit("/people")
	lead.press("Add a person")
	lead.types("Signs in as", "tove")
	lead.types("Name as shown", "Tove Lind")
	lead.types("Skills", "crimping, firmware")
	lead.types("First password", "nine wet herring gulls")
	lead.press("Add the person")
	lead.sees("Tove Lind can sign in as tove")
	lead.sees("technician: crimping, firmware")

	tove := open(t, 390, 844)
	tove.visit("/")
	tove.sees("Sign in")
	tove.types("Name", "tove")
	tove.types("Password", "nine wet herring gulls")
	tove.press("Sign in")
	tove.sees("Nothing is planned for you.")
	tove.goes("/account")
	tove.types("Present password", "nine wet herring gulls")
	tove.types("New password", "a kettle for the boatswain")
	tove.press("Change the password")
	tove.sees("Your password is changed")

	lead.goes("/people")
	lead.sees("signed in once")
	lead.press("Sign out everywhere")
	lead.until("who it was", `/signed out everywhere/.test(document.body.innerText)`)
}

// On a phone a member finds a free machine, sees smoke, and reports it with two taps: the machine is out of use at
// once, and a technician who is at something else sees it on their page until they take it.
func TestSmokeInTwoTaps(t *testing.T) {
	t.Parallel()
	p, staff := open(t, 390, 844), open(t, 1280, 800)
	staff.signIn("technician")
	staff.visit("/bench")
	staff.sees("Bench")
	p.signIn("member")
	p.sees("Which machine can I use now?")
	p.types("Name, bay or nozzle", "Avocet")
	p.until("the one", `document.querySelectorAll('main li').length === 1`)
	p.press("Report a fault of Avocet")
	p.press("Smoke or a burning smell")
	p.sees("Avocet is out of use now.")
	p.sees("Pull its plug, if you can reach it safely.")
	staff.sees("Danger on Avocet")
	staff.press("I am going there")
	staff.until("the banner to go", `!document.querySelector('[role=alert]')`)
	staff.goes("/fleet")
	staff.sees("danger reported")
	p.press("Close")
	p.sees("No machine is like that now.")
	p.visit("/machine/1") // as its label says
	p.sees("You cannot use it: it is out of use")
	for _, place := range []string{"Fleet", "Compatibility", "Firmware"} {
		if value[bool](p, find(place)+` !== undefined`) {
			t.Errorf("a member is offered %s", place)
		}
	}
	p.do(chromedp.EmulateViewport(1280, 800))
	p.sees("Use a machine")
}

// Settings are saved twice in a row; what another lead saved meanwhile is not overwritten.
func TestShopSettings(t *testing.T) {
	t.Parallel()
	a, b := open(t, 1280, 800), open(t, 1280, 800)
	for _, p := range []*page{a, b} {
		p.signIn("lead")
		p.visit("/shop")
		p.sees("Opening hours")
	}
	for i, contact := range []string{"Ask at the counter", "Ask in the loft"} {
		a.types("Contact", contact)
		a.press("Save")
		a.sees("Saved")
		if i == 0 {
			a.until("the toast to go", `!document.querySelector('[aria-live=polite]').innerText.includes('Saved')`)
		}
		a.until("what was saved", find("Contact")+`.value === '`+contact+`'`)
	}
	b.types("Contact", "Ring twice")
	b.press("Save")
	b.sees("It was changed since you began. What you typed is here still.")
	b.sees("Contact: there now Ask in the loft, yours Ring twice")
	b.press("Mine, over what is there now")
	b.press("Save")
	b.sees("Saved")
	shop, err := roomOf(t).store.Shop(t.Context())
	if err != nil || shop.Contact != "Ring twice" {
		t.Errorf("the contact is %q, %v", shop.Contact, err)
	}
}
