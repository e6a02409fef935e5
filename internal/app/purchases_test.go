package app_test

import (
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// Two boards and a kit are ordered; one board comes with half its flash. It becomes no stock,
// its claim stays open until another came for it, and its supplier answers for it.
func TestGoodsIn(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := add(t, s, "A", nil)
	price := 90.0
	ordered := store.PurchaseFields{Supplier: "Dockside", Reference: "D-77", OrderedOn: days(-9).Format("2006-01-02")}
	boards := app.NewPurchaseLine{Kind: "mainboard", What: "Hush 8", Count: 2, Price: &price, Machines: []int64{a}}
	ids, err := does(s).PlaceOrders(ctx, []app.NewPurchase{
		{PurchaseFields: ordered, Lines: []app.NewPurchaseLine{boards, {What: "thermal paste", Count: 1}}},
		{PurchaseFields: store.PurchaseFields{Supplier: "Kelp"}, Lines: []app.NewPurchaseLine{{Kit: "bollard-springs",
			Count: 1}}},
	}, "x", now)
	must(t, err)
	if len(ids) != 2 {
		t.Fatalf("%v", ids)
	}
	id := ids[0]
	sheet := func() app.PurchaseSheet {
		t.Helper()
		p, err := does(s).PurchaseSheet(ctx, id, now)
		must(t, err)
		return p
	}
	p := sheet()
	line := p.Lines[0].ID
	if p.Names[a] != "A" || p.Checks[0].Trait != machine.ModelTrait || p.Checks[0].Advertised != "Hush 8" {
		t.Errorf("%v %+v", p.Names, p.Checks[0])
	}
	flash := func(found string) []purchase.TraitFound {
		return []purchase.TraitFound{{Trait: "flash", Advertised: "512", Found: found, Grade: machine.Observed}}
	}
	receive := func(r app.Received) app.Arrived {
		t.Helper()
		r.LineID = line
		got, err := does(s).Receive(ctx, id, r, "y", now)
		must(t, err)
		return got
	}
	good := receive(app.Received{Findings: flash("512"), Tag: "B-1", Shelf: "3", ForMachine: &a,
		ArrivalFields: store.ArrivalFields{Lot: "L5", CameOn: days(-1).Format("2006-01-02")}})
	part, err := s.Part(ctx, good.PartID)
	must(t, err)
	if f := part.Fact(s.Vocabulary(ctx), "flash"); good.Outcome != purchase.AsAdvertised || part.Supplier != "Dockside" ||
		part.Lot != "L5" || *part.Price != 45 || f.Value.Text != "512" || f.Grade != machine.Observed ||
		*part.ForMachine != a {
		t.Errorf("%+v %+v", good, part.PartFields)
	}
	wrong := receive(app.Received{Findings: flash("256"), ArrivalFields: store.ArrivalFields{Lot: "L5",
		ReturnBy: days(13).Format("2006-01-02")}})
	if wrong.Outcome != purchase.Wrong || wrong.PartID != 0 {
		t.Errorf("%+v", wrong)
	}
	list, err := s.ListParts(ctx, store.PartsQuery{Lot: "L5", Limit: 10})
	must(t, err)
	if list.Total != 1 {
		t.Errorf("%d parts of the lot on record, want the good one alone", list.Total)
	}
	tally, err := does(s).Suppliers(ctx)
	must(t, err)
	if len(tally) != 1 || tally[0].Supplier != "Dockside" || tally[0].Checked != 2 || tally[0].False != 1 {
		t.Errorf("%+v", tally)
	}
	book, err := does(s).PurchaseBook(ctx, false, now)
	must(t, err)
	if len(book.Orders) != 2 || len(book.Claims) != 1 || book.Claims[0].What != "Hush 8" || book.Claims[0].Due == "" ||
		!book.Claims[0].Findings[0].Differs {
		t.Errorf("%d orders, %+v", len(book.Orders), book.Claims)
	}

	// A third board nobody waits for; only a replacement of the wrong one.
	_, err = does(s).Receive(ctx, id, app.Received{ArrivalFields: store.ArrivalFields{LineID: line}}, "y", now)
	refused(t, err, "nothing more is waited for")
	claim := func(to purchase.Claim, version int) error {
		return does(s).ChangeClaim(ctx, wrong.ID, version, to, "RMA 5", "", "y", now)
	}
	refused(t, claim(purchase.Replaced, 1), "receive the replacement")
	must(t, claim(purchase.SentBack, 1))
	if err := claim(purchase.Refunded, 1); !isConflict(err) {
		t.Errorf("over an older version: %v", err)
	}
	receive(app.Received{ArrivalFields: store.ArrivalFields{Replaces: &wrong.ID}})
	refused(t, claim(purchase.Refunded, 3), "closed")
	p = sheet()
	if g := p.Lines[0].Progress[0]; g.ToCome != 0 || g.Claimed != 0 || g.Good != 2 {
		t.Errorf("%+v", g)
	}
	if len(p.Arrivals) != 3 || p.Arrivals[1].Claim != purchase.Replaced || p.Arrivals[1].ClaimNote != "RMA 5" {
		t.Errorf("%+v", p.Arrivals)
	}

	// What is wrong is said, and days follow one another.
	paste := store.ArrivalFields{LineID: p.Lines[1].ID}
	for want, r := range map[string]app.Received{
		"no number 2": {ArrivalFields: store.ArrivalFields{LineID: paste.LineID, Kept: 1}},
		"no line":     {ArrivalFields: store.ArrivalFields{LineID: line + 100}},
		"still to come": {ArrivalFields: store.ArrivalFields{LineID: paste.LineID,
			CameOn: days(1).Format("2006-01-02")}},
		"cannot have come": {ArrivalFields: store.ArrivalFields{LineID: paste.LineID,
			CameOn: days(-10).Format("2006-01-02")}},
		"it came only": {ArrivalFields: store.ArrivalFields{LineID: paste.LineID,
			ReturnBy: days(-1).Format("2006-01-02")}},
		"goes on no record":  {ArrivalFields: paste, Findings: flash("1")},
		"what is damaged":    {ArrivalFields: store.ArrivalFields{LineID: paste.LineID, Outcome: purchase.Damaged}},
		"not of this order":  {ArrivalFields: store.ArrivalFields{LineID: paste.LineID, Replaces: new(int64)}},
		"claimed there any ": {ArrivalFields: store.ArrivalFields{LineID: paste.LineID, Replaces: &wrong.ID}},
	} {
		_, err := does(s).Receive(ctx, id, r, "y", now)
		refused(t, err, want)
	}
	must(t, does(s).ChangeOrder(ctx, id, 1, ordered, "sold out", "x", now))
	_, err = does(s).Receive(ctx, id, app.Received{ArrivalFields: paste}, "y", now)
	refused(t, err, "sold out")
	if err := does(s).ChangeOrder(ctx, id, 1, ordered, "", "x", now); !isConflict(err) {
		t.Errorf("over an older version: %v", err)
	}
	if book, _ = does(s).PurchaseBook(ctx, false, now); len(book.Orders) != 1 || len(book.Claims) != 0 {
		t.Errorf("%d orders, %d claims are waited for; want the springs alone", len(book.Orders), len(book.Claims))
	}
	if book, _ = does(s).PurchaseBook(ctx, true, now); len(book.Orders) != 2 {
		t.Errorf("%d orders in all", len(book.Orders))
	}
}

// All orders of one request or none.
func TestOrdersAreRefusedTogether(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	good := app.NewPurchase{PurchaseFields: store.PurchaseFields{Supplier: "Kelp"},
		Lines: []app.NewPurchaseLine{{What: "paste", Count: 1}}}
	for want, bad := range map[string]app.NewPurchase{
		"of which supplier": {Lines: good.Lines},
		"without a line":    {PurchaseFields: good.PurchaseFields},
		"no kind of part": {PurchaseFields: good.PurchaseFields, Lines: []app.NewPurchaseLine{{Kind: "ghost", What: "x",
			Count: 1}}},
		"write 1 to": {PurchaseFields: good.PurchaseFields, Lines: []app.NewPurchaseLine{{What: "x"}}},
		"still to come": {PurchaseFields: store.PurchaseFields{Supplier: "Kelp", OrderedOn: days(1).Format("2006-01-02")},
			Lines: good.Lines},
	} {
		_, err := does(s).PlaceOrders(ctx, []app.NewPurchase{good, bad}, "x", now)
		refused(t, err, want)
	}
	if book, err := does(s).PurchaseBook(ctx, true, now); err != nil || len(book.Orders) != 0 {
		t.Errorf("%d orders stayed, %v", len(book.Orders), err)
	}
}
