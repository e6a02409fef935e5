package e2e

import (
	"testing"

	"wardifex/internal/store"
)

// A delivery is received by keyboard: of two boards one is as advertised and goes on the
// shelf, the other is something else, is no stock, and goes back to its supplier.
func TestADeliveryWithOneWrongBoard(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/purchases")
	p.press("New order")
	p.types("Supplier", "Windlass Parts")
	p.types("The supplier's order number", "W-19")
	p.chooses("Kind of part", "Mainboard")
	p.types("Model, or what it is", "Trestle 5")
	p.types("How many", "2")
	p.types("Price of all of them", "150")
	p.press("Save the order")
	p.sees("Order of Windlass Parts")
	p.sees("2 to come")

	p.press("Receive one")
	p.press("Processor width: as advertised")
	p.types("Lot", "TR-7")
	p.types("Shelf", "drawer 2")
	p.press("Take it in")
	p.sees("1 here, 1 to come")

	p.press("Receive one")
	p.until("the lot of before", `document.querySelector('[role=dialog]')?.innerText.includes('Lot') &&
		[...document.querySelectorAll('[role=dialog] input')].some((i) => i.value === 'TR-7')`)
	p.press("Driver outputs: differs")
	p.types("Driver outputs, found", "4")
	p.types("What is wrong", "the older board in the new box")
	p.press("Open the claim")
	p.sees("4 found, 5 advertised")
	p.sees("1 claimed")

	p.press("Change the claim")
	p.chooses("How far it is", "sent back: the supplier's answer is waited for")
	p.types("Note", "parcel 88")
	p.press("Save")
	p.sees("claim sent back")
	parts, err := roomOf(t).store.ListParts(t.Context(), store.PartsQuery{Lot: "TR-7", Limit: 10})
	if err != nil || parts.Total != 1 || parts.Parts[0].Shelf != "drawer 2" || *parts.Parts[0].Price != 75 {
		t.Errorf("on the shelf: %+v, %v", parts, err)
	}

	// The replacement closes the claim, and the order has nothing more to come.
	p.press("Receive one")
	p.until("the claim to replace", `document.querySelector('[role=dialog]')?.innerText.includes('Is it a replacement?')`)
	p.chooses("Is it a replacement?", "of the one that came 20 Nov 2026, sent back")
	p.press("Take it in")
	p.sees("all here")
	p.sees("claim replaced")

	// Everything of the lot is found at once.
	p.goes("/lot?lot=TR-7")
	p.sees("2 parts on record, 0 of them in machines")
	p.goes("/parts")
	p.sees("Windlass Parts")
	p.until("its failed claim", `[...document.querySelectorAll('tr')].some((r) => /Windlass Parts/.test(r.innerText) &&
		/1/.test(r.cells[3]?.innerText))`)
}

// What was picked in the matrix becomes orders, one of each supplier.
func TestAnOrderListIsPlaced(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask?what=bed+surface")
	p.press("Pick kits to order")
	p.press("Slate sheet for Avocet")
	p.press("Slate sheet for Bittern")
	p.press("Order list: 2")
	p.press("Place the order")
	p.types("Supplier", "Kelp & Sons")
	p.press("Save as ordered")
	p.sees("Order of Kelp & Sons")
	p.sees("for Avocet, Bittern")
	p.goes("/ask?what=bed+surface")
	p.sees("Pick kits to order")
	if p.says("Order list: 2") {
		t.Error("the picks are still there after they were ordered")
	}
}

// A question to the fleet, in the address, and one inspection pass over what answered it.
func TestAFleetQuestionIsInspected(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/fleet")
	p.sees("Whimbrel")
	p.chooses("Question", "Protection not proven")
	p.sees("7 of 24 machines")
	p.until("the question in the address", `location.search.includes('machine.protection')`)
	p.press("Select all machines shown")
	p.sees("7 machines selected")
	p.press("Inspect them")
	p.until("both in the pass", `location.pathname === '/identify' && location.search.split('machine=').length === 8`)
	p.sees("to ask, about")
}
