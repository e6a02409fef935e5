package demo

import (
	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
	"wardifex/internal/store"
)

// purchases are three boards of which one came as something else, and probes that are still
// to come.
func (w *writer) purchases() {
	if w.err != nil {
		return
	}
	ordered, came := Today.AddDate(0, 0, -16), Today.AddDate(0, 0, -3)
	ids, err := w.a.PlaceOrders(w.ctx, []app.NewPurchase{
		{
			PurchaseFields: store.PurchaseFields{
				Supplier:  "Quick Parcel Parts",
				Reference: "QP-88120",
				OrderedOn: ordered.Format("2006-01-02"),
			},
			Lines: []app.NewPurchaseLine{
				{Kind: "mainboard", What: "Brace board", Count: 3, Price: price(117), Machines: []int64{w.ids["Dunlin"]}},
				{What: "Thermal paste, 5 g", Count: 1, Price: price(6)},
			},
		},
		{
			PurchaseFields: store.PurchaseFields{
				Supplier:  "Dockside Supply",
				Reference: "DS-4471",
				OrderedOn: ordered.Format("2006-01-02"),
			},
			Lines: []app.NewPurchaseLine{{
				Kit:      "plumbline-probe",
				Count:    2,
				Price:    price(92),
				Machines: []int64{w.ids["Avocet"], w.ids["Bittern"]},
			}},
		},
	}, lead, ordered)
	w.do(err)
	if w.err != nil {
		return
	}
	order, err := w.s.Purchase(w.ctx, ids[0])
	w.do(err)
	for _, found := range []string{"32-bit", "8-bit"} {
		dunlin := w.ids["Dunlin"]
		r := app.Received{
			ArrivalFields: store.ArrivalFields{
				LineID:   order.Lines[0].ID,
				CameOn:   came.Format("2006-01-02"),
				Slip:     "QP-88120-1",
				Lot:      "BB-41",
				ReturnBy: Today.AddDate(0, 0, 11).Format("2006-01-02"),
			},
			Findings: []purchase.TraitFound{
				{Trait: machine.ModelTrait, Advertised: "Brace board", Found: "Brace board", Grade: machine.Marked},
				{Trait: "width", Advertised: "32-bit", Found: found, Grade: machine.Observed},
			},
			Tag:        "NL-0061",
			Serial:     "BB-21402",
			Shelf:      "drawer 1",
			ForMachine: &dunlin,
		}
		_, err = w.a.Receive(w.ctx, ids[0], r, technician, came)
		w.do(err)
	}
}
