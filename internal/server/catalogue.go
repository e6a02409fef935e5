package server

import (
	"context"
	"encoding/json"
	"strconv"

	"github.com/gin-gonic/gin"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/record"
	"wardifex/internal/store"
)

// CatalogueSheet is the catalogue with what is known of its entries.
type CatalogueSheet struct {
	Catalogue machine.Catalogue      `json:"catalogue"`
	Entries   []store.CatalogueEntry `json:"entries"`
	Budgets   map[string][]string    `json:"budgets" doc:"What each model offers for others to use up, by its key"`
	Units     string                 `json:"units" doc:"Units in which numbers can be recorded"`
	RulesOff  []string               `json:"rulesOff" doc:"Rules that this catalogue switches off, and why"`
}

func (s *Server) catalogue(ctx context.Context, _ user, _ *none) (*answer[CatalogueSheet], error) {
	c, entries, _, err := s.Store.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	out := CatalogueSheet{Catalogue: c, Entries: entries, Budgets: map[string][]string{}, Units: quantity.Names(), RulesOff: append([]string{}, s.Store.RulesOff()...)}
	voc := s.Store.Vocabulary()
	for _, m := range c.Models {
		out.Budgets[catalogue.ModelKey(m)] = voc.Budgets(m)
	}
	return answerOf(out, nil)
}

type saveEntry struct {
	Body struct {
		Version    int                 `json:"version" doc:"0 for a new entry"`
		Was        string              `json:"was,omitempty" maxLength:"120" doc:"Name that a model had, where it gets another one"`
		Kind       *machine.PartKind   `json:"kind,omitempty"`
		Slot       *machine.Position   `json:"slot,omitempty"`
		Inspection *machine.Inspection `json:"inspection,omitempty"`
		Model      *machine.Model      `json:"model,omitempty"`
	}
}

func (s *Server) saveEntry(ctx context.Context, u user, in *saveEntry) (*answer[CatalogueSheet], error) {
	var one machine.Catalogue
	if k := in.Body.Kind; k != nil {
		one.Kinds = append(one.Kinds, *k)
	}
	if x := in.Body.Slot; x != nil {
		one.Slots = append(one.Slots, *x)
	}
	if x := in.Body.Inspection; x != nil {
		one.Inspections = append(one.Inspections, *x)
	}
	if m := in.Body.Model; m != nil {
		one.Models = append(one.Models, *m)
	}
	if m := in.Body.Model; m != nil && in.Body.Was != "" && in.Body.Was != m.Name {
		if err := s.Store.RenameModel(ctx, in.Body.Version, in.Body.Was, *m, u.Name, s.now()); err != nil {
			return nil, err
		}
		return s.catalogue(ctx, u, nil)
	}
	if err := s.Store.SaveEntry(ctx, in.Body.Version, one, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.catalogue(ctx, u, nil)
}

type deleteEntry struct {
	Body struct {
		Section string `json:"section" enum:"kind,slot,inspection,model"`
		Key     string `json:"key"`
		Version int    `json:"version"`
	}
}

func (s *Server) deleteEntry(ctx context.Context, u user, in *deleteEntry) (*answer[CatalogueSheet], error) {
	if err := s.Store.DeleteEntry(ctx, in.Body.Section, in.Body.Key, in.Body.Version); err != nil {
		return nil, err
	}
	return s.catalogue(ctx, u, nil)
}

func (s *Server) catalogueFile(g *gin.Context) ([]byte, error) {
	c, _, _, err := s.Store.Catalogue(g.Request.Context())
	if err != nil {
		return nil, err
	}
	kits, err := s.Store.Kits(g.Request.Context())
	if err != nil {
		return nil, err
	}
	return json.MarshalIndent(catalogue.NewFile(c, kits), "", " ")
}

// jsonFile is a file of one of our formats, as it was chosen.
type jsonFile struct {
	RawBody []byte `contentType:"application/octet-stream"`
	Name    string `query:"name" maxLength:"200" doc:"Of the file"`
}

func (f *jsonFile) source() store.ImportFile { return store.ImportFile{Name: f.Name, Data: f.RawBody} }

func (s *Server) previewCatalogue(ctx context.Context, _ user, in *jsonFile) (*answer[catalogue.MergePlan], error) {
	c, err := catalogue.ReadFile(in.RawBody)
	if err != nil {
		return nil, store.Refused(err)
	}
	return answerOf(s.Store.PlanCatalogue(ctx, c))
}

func (s *Server) importCatalogue(ctx context.Context, u user, in *jsonFile) (*answer[catalogue.MergePlan], error) {
	c, err := catalogue.ReadFile(in.RawBody)
	if err != nil {
		return nil, store.Refused(err)
	}
	return answerOf(s.Store.ImportCatalogue(ctx, in.source(), c, u.Name, s.now()))
}

func (s *Server) recordFile(g *gin.Context) ([]byte, error) {
	var ids []int64
	for _, text := range g.QueryArray("machine") {
		id, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return nil, &store.Refusal{Sentence: text + " is no machine's number"}
		}
		ids = append(ids, id)
	}
	f, err := s.Store.Record(g.Request.Context(), ids...)
	if err != nil {
		return nil, err
	}
	return json.MarshalIndent(f, "", " ")
}

func (s *Server) previewRecord(ctx context.Context, _ user, in *jsonFile) (*answer[store.RecordPlan], error) {
	f, err := record.Read(in.RawBody)
	if err != nil {
		return nil, store.Refused(err)
	}
	return answerOf(s.Store.PlanRecord(ctx, f, s.now()))
}

func (s *Server) importRecord(ctx context.Context, u user, in *jsonFile) (*answer[store.RecordPlan], error) {
	f, err := record.Read(in.RawBody)
	if err != nil {
		return nil, store.Refused(err)
	}
	return answerOf(s.Store.ImportRecord(ctx, in.source(), f, u.Name, s.now()))
}
