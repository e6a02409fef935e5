package server

import (
	"context"
	"encoding/json"
	"io"
	"strconv"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/recordfile"
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
	c, entries, err := s.Store.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	out := CatalogueSheet{
		Catalogue: c,
		Entries:   entries,
		Budgets:   map[string][]string{},
		Units:     quantity.Names(),
		RulesOff:  append([]string{}, s.Store.RulesOff(ctx)...),
	}
	voc := s.Store.Vocabulary(ctx)
	for _, m := range c.Models {
		out.Budgets[catalogue.ModelKey(m)] = voc.Budgets(m)
	}
	return answerOf(out, nil)
}

type saveEntry struct {
	Body struct {
		Version int `json:"version" doc:"0 for a new entry"`
		// Where it gets another one.
		Was        string              `json:"was,omitempty" maxLength:"120" doc:"Name that a model had"`
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
		if err := s.app.RenameModel(ctx, in.Body.Version, in.Body.Was, *m, u.Name, s.now()); err != nil {
			return nil, err
		}
		return s.catalogue(ctx, u, nil)
	}
	if err := s.app.SaveEntry(ctx, in.Body.Version, one, u.Name, s.now()); err != nil {
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
	if err := s.app.DeleteEntry(ctx, in.Body.Section, in.Body.Key, in.Body.Version); err != nil {
		return nil, err
	}
	return s.catalogue(ctx, u, nil)
}

func (s *Server) catalogueFile(g *gin.Context) ([]byte, error) {
	if _, err := onlyParameters(g); err != nil {
		return nil, err
	}
	c, err := s.Store.CatalogueNow(g.Request.Context())
	if err != nil {
		return nil, err
	}
	kits, err := s.Store.Kits(g.Request.Context())
	if err != nil {
		return nil, err
	}
	return json.MarshalIndent(catalogue.NewFile(c, kits), "", " ")
}

// jsonFile is a file of one of our formats that was sent in.
type jsonFile struct{ Body SentFile }

func (s *Server) previewCatalogue(ctx context.Context, u user, in *jsonFile) (*answer[catalogue.MergePlan], error) {
	var p catalogue.MergePlan
	err := s.read(ctx, u, in.Body, func(content []byte, _ store.ImportFile) error {
		c, err := catalogue.ReadFile(content)
		if err != nil {
			return app.Refused(err)
		}
		p, err = s.app.PlanCatalogue(ctx, c)
		return err
	})
	return answerOf(p, err)
}

func (s *Server) importCatalogue(ctx context.Context, u user, in *jsonFile) (*answer[catalogue.MergePlan], error) {
	var p catalogue.MergePlan
	err := s.read(ctx, u, in.Body, func(content []byte, src store.ImportFile) error {
		c, err := catalogue.ReadFile(content)
		if err != nil {
			return app.Refused(err)
		}
		p, err = s.app.ImportCatalogue(ctx, src, c, u.Name, s.now())
		return err
	})
	return answerOf(p, err)
}

func (s *Server) recordFile(g *gin.Context, to io.Writer) error {
	q, err := onlyParameters(g, "machine")
	if err != nil {
		return err
	}
	var ids []int64
	for _, text := range q["machine"] {
		id, err := strconv.ParseInt(text, 10, 64)
		if err != nil || id < 1 {
			return &app.Refusal{Sentence: "a machine is named by its number, 1 or more"}
		}
		ids = append(ids, id)
	}
	return s.Store.WriteRecordTo(g.Request.Context(), to, ids...)
}

func (s *Server) previewRecord(ctx context.Context, u user, in *jsonFile) (*answer[recordfile.ImportPlan], error) {
	var p recordfile.ImportPlan
	err := s.read(ctx, u, in.Body, func(content []byte, _ store.ImportFile) error {
		f, err := recordfile.Read(content)
		if err != nil {
			return app.Refused(err)
		}
		p, err = s.app.PlanRecord(ctx, f, s.now())
		return err
	})
	return answerOf(p, err)
}

func (s *Server) importRecord(ctx context.Context, u user, in *jsonFile) (*answer[recordfile.ImportPlan], error) {
	var p recordfile.ImportPlan
	err := s.read(ctx, u, in.Body, func(content []byte, src store.ImportFile) error {
		f, err := recordfile.Read(content)
		if err != nil {
			return app.Refused(err)
		}
		p, err = s.app.ImportRecord(ctx, src, f, u.Name, s.now())
		return err
	})
	return answerOf(p, err)
}
