package server_test

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Every trait of every kind is deleted in turn. Either that is refused, and it is said
// what needs the trait, or every page about the machine still comes.
func TestAnyTraitDeleted(t *testing.T) {
	url, s := start(t)
	ctx := context.Background()
	id, err := does(s).AddMachine(ctx, store.Fields{Name: "Avocet"}, app.Like{}, "x", now)
	if err != nil {
		t.Fatal(err)
	}
	lead := signedIn(t, url, store.Lead)
	at := fmt.Sprintf("/api/machines/%d", id)
	pages := []string{
		at,
		at + "/structure",
		at + "/timeline",
		at + "/contradictions",
		at + "/wires",
		at + "/kits",
		"/api/machines",
		"/api/catalogue",
		"/api/kits",
		"/api/due",
		"/api/matrix",
		"/api/kit-words",
		"/api/fleet/askable",
		fmt.Sprintf("/api/kits/plumbline-probe/machines/%d/advice", id),
		fmt.Sprintf("/api/identify?machine=%d", id),
	}
	kept, gone := 0, 0
	for _, kind := range s.Vocabulary(t.Context()).Catalogue.Kinds {
		for i := range kind.Traits {
			c, entries, err := s.Catalogue(ctx)
			if err != nil {
				t.Fatal(err)
			}
			less := c.Kinds[slices.IndexFunc(c.Kinds, func(k machine.PartKind) bool { return k.Key == kind.Key })]
			less.Traits = slices.DeleteFunc(
				slices.Clone(less.Traits),
				func(tr machine.TraitDef) bool { return tr.Name == kind.Traits[i].Name },
			)
			version := 1
			for _, e := range entries {
				if e.Section == "kind" && e.Key == kind.Key {
					version = e.Version
				}
			}
			status, body := lead.call("POST", "/api/catalogue/entries", map[string]any{"version": version, "kind": less})
			if status != http.StatusOK {
				clipped := kind.Traits[i].Name[:min(6, len(kind.Traits[i].Name))] // long names are cut off
				if status != http.StatusUnprocessableEntity ||
					!strings.Contains(body, clipped) && !strings.Contains(body, kind.Traits[i].Short) {
					t.Errorf("%s.%s: %d, %s", kind.Key, kind.Traits[i].Name, status, body)
				}
				kept++
				continue
			}
			gone++
			for _, page := range pages {
				if status, body := lead.call("GET", page, nil); status != http.StatusOK {
					t.Fatalf("without %s.%s, %s: %d, %s", kind.Key, kind.Traits[i].Name, page, status, body)
				}
			}
		}
	}
	if kept < 60 || gone < 10 {
		t.Errorf("%d were kept, %d deleted: the test shows little", kept, gone)
	}
}
