package app

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"
	"sync"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// readyKits keeps the kits as they were made ready last.
type readyKits struct {
	mu        sync.Mutex
	voc       *machine.Vocabulary
	documents []store.KitDocument
	ready     []*fit.Judge
	broken    []string
}

// Judges makes every kit ready, by name. A kit that the catalogue no longer bears out is
// named among the broken; the others are judged all the same. While neither kits nor
// catalogue change, the same judges are given again.
func (a *App) Judges(ctx context.Context) (ready []*fit.Judge, broken []string, err error) {
	documents, err := a.store.KitDocuments(ctx)
	if err != nil {
		return nil, nil, err
	}
	voc := a.store.Vocabulary(ctx)
	a.kits.mu.Lock()
	defer a.kits.mu.Unlock()
	same := func(x, y store.KitDocument) bool { return x.Key == y.Key && bytes.Equal(x.JSON, y.JSON) }
	if k := &a.kits; k.voc == voc && slices.EqualFunc(k.documents, documents, same) {
		return k.ready, k.broken, nil
	}
	all := make([]fit.Kit, len(documents))
	for i, d := range documents {
		if err := json.Unmarshal(d.JSON, &all[i]); err != nil {
			return nil, nil, err
		}
	}
	ready, broken = []*fit.Judge{}, []string{}
	for _, k := range fit.Mutual(all) {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			broken = append(broken, k.Name+": "+err.Error())
			continue
		}
		ready = append(ready, j)
	}
	if len(broken) > 0 { // perhaps only because the kits are newer than the catalogue
		if err := a.store.CheckPin(ctx); err != nil {
			return nil, nil, err
		}
	}
	a.kits.voc, a.kits.documents, a.kits.ready, a.kits.broken = voc, documents, ready, broken
	return ready, broken, nil
}

// Judge makes a kit ready for judging machines; its key may name the head that it is for.
func (a *App) Judge(ctx context.Context, key string) (*fit.Judge, error) {
	all, err := a.store.KitsNaming(ctx, key) // with it come all that name it, for they may exclude it
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(all, func(k fit.Kit) bool { return k.Key == key })
	if at < 0 {
		return a.judgeForHead(ctx, key)
	}
	j, err := fit.NewJudge(all[at].Beside(all), a.store.Vocabulary(ctx))
	if err != nil {
		return nil, refuse("%s cannot be judged: %s", all[at].Name, err)
	}
	return j, nil
}

// judgeForHead makes a kit ready whose key names the head that it is for.
func (a *App) judgeForHead(ctx context.Context, key string) (*fit.Judge, error) {
	kit, head := fit.SplitTarget(key)
	if head == 0 {
		return nil, ErrNotFound
	}
	j, err := a.Judge(ctx, kit)
	if err != nil {
		return nil, err
	}
	if j, err = j.ForHead(head); err != nil {
		return nil, Refused(err)
	}
	return j, nil
}

// CheckKit says what is wrong with a kit as written, beside the others.
func (a *App) CheckKit(ctx context.Context, k fit.Kit) (*fit.Judge, error) {
	if err := k.Check(); err != nil {
		return nil, Refused(err)
	}
	others, err := a.store.Kits(ctx)
	if err != nil {
		return nil, err
	}
	j, err := fit.NewJudge(k.Beside(others), a.store.Vocabulary(ctx))
	if err != nil {
		return nil, Refused(err)
	}
	all := []fit.Kit{k}
	for _, o := range others {
		if o.Key != k.Key {
			all = append(all, o)
		}
	}
	if err := fit.CheckTogether(all); err != nil {
		return nil, Refused(err)
	}
	return j, nil
}
