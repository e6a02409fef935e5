package server

import (
	"context"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/carryover"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// mostBuildFile is the size of a file of a build. Source: from memory; images of boards are below
// some MiB.
const mostBuildFile = 16 << 20

func (s *Server) firmwareRoutes() {
	handle(s, store.Member, "GET", "/machines/{id}/settings", "machine-settings",
		"A machine's settings in all their places, and where they disagree",
		func(ctx context.Context, _ user, in *ByID) (*answer[app.MachineSettings], error) {
			return answerOf(s.app.MachineSettings(ctx, in.ID))
		})
	handle(s, store.Technician, "POST", "/machines/{id}/settings", "add-settings",
		"Keep a text of settings; its secrets are masked first", s.addSettings, fileUpTo(dialect.MostBytes))
	handle(s, store.Technician, "GET", "/settings-files/{id}", "settings-file", "A settings file with what it states",
		func(ctx context.Context, _ user, in *ByID) (*answer[app.SettingsText], error) {
			return answerOf(s.app.SettingsFile(ctx, in.ID))
		})
	handle(s, store.Technician, "POST", "/settings-files/{id}/end", "end-settings",
		"Say that a settings file counts no more",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.EndSettings(ctx, in.ID, s.now()))
		})
	handle(s, store.Technician, "POST", "/settings-files/{id}/keep", "keep-settings",
		"Undo the removal of a settings file",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.KeepSettings(ctx, in.ID))
		})
	handle(s, store.Technician, "GET", "/drift", "drift", "Where the settings of the fleet disagree",
		func(ctx context.Context, _ user, _ *none) (*answer[app.FleetDrift], error) {
			return answerOf(s.app.FleetDrift(ctx))
		}, fleetWide)
	handle(s, store.Technician, "GET", "/setting-words", "setting-words", "What words of settings mean, by family",
		s.settingWords)
	handle(s, store.Technician, "POST", "/setting-words", "save-setting-word", "Say what a word of settings means",
		func(ctx context.Context, u user, in *saveWord) (*noContent, error) {
			return emptyAnswer(s.app.SaveWord(ctx, in.Body, u.Name, s.now()))
		})
	handle(s, store.Technician, "POST", "/setting-words/{id}/delete", "delete-setting-word",
		"Take a word of the shop away",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.DropWord(ctx, in.ID))
		})
	handle(s, store.Member, "GET", "/machines/{id}/firmware", "machine-firmware", "The firmware of a machine",
		func(ctx context.Context, _ user, in *ByID) (*answer[app.FirmwareOf], error) {
			return answerOf(s.app.FirmwareOf(ctx, in.ID, s.now()))
		}, fleetWide)
	handle(s, store.Technician, "POST", "/machines/{id}/firmware/want", "want-features",
		"What features would leave of the flash, and what to drop for them", s.wantFeatures, reading)
	handle(s, store.Technician, "GET", "/machines/{id}/firmware/checks/{build}", "flash-checks",
		"The checks of a build before it is flashed on a machine", s.flashChecks)
	handle(s, store.Technician, "POST", "/machines/{id}/firmware/message", "host-message",
		"What a message of a host means",
		s.hostMessage, reading)
	handle(s, store.Technician, "POST", "/machines/{id}/firmware/decision", "decide-flash",
		"Leave the firmware alone, or say what it waits for", s.decideFlash)
	handle(s, store.Technician, "POST", "/machines/{id}/ways-back", "add-way-back",
		"Write down a card, a backup or a file by which there is a way back", s.addWayBack)
	handle(s, store.Technician, "POST", "/machines/{id}/ways-back/{back}/end", "end-way-back",
		"Say that a way back is there no more",
		func(ctx context.Context, _ user, in *endWayBack) (*noContent, error) {
			return emptyAnswer(s.app.EndWayBack(ctx, in.ID, in.Back, s.now()))
		})
	handle(s, store.Technician, "POST", "/machines/{id}/ways-back/{back}/keep", "keep-way-back",
		"Undo the removal of a way back",
		func(ctx context.Context, _ user, in *endWayBack) (*noContent, error) {
			return emptyAnswer(s.app.KeepWayBack(ctx, in.ID, in.Back))
		})
	handle(s, store.Technician, "GET", "/machines/{id}/firmware/family", "change-of-family",
		"What becomes of a machine's values in another family", s.changeOfFamily)
	handle(s, store.Technician, "POST", "/machines/{id}/host-update", "open-host-update",
		"Open a work order for an update of the host",
		func(ctx context.Context, u user, in *openHostUpdate) (*answer[Created], error) {
			id, err := s.app.OpenHostUpdate(ctx, in.ID, in.Body.Reason, u.Name, s.now())
			return answerOf(Created{id}, err)
		})
	handle(s, store.Technician, "POST", "/carry-over", "carry-over",
		"Carry a machine's own values into the example of a new version", s.carryOver, reading)
	handle(s, store.Technician, "POST", "/carry-over/decisions", "decide-carry-over",
		"Say what becomes of a word, for the whole fleet", s.decideCarryOver)
	handle(s, store.Technician, "GET", "/builds/{id}/machines", "build-machines",
		"For which machines a build is, and what tells the others apart",
		func(ctx context.Context, _ user, in *ByID) (*answer[[]app.FitsMachine], error) {
			return answerOf(s.app.BuildForMachines(ctx, in.ID))
		}, fleetWide)
	handle(s, store.Technician, "POST", "/builds/{id}/files", "add-build-file", "Keep a file of a build", s.addBuildFile,
		fileUpTo(mostBuildFile))
}

type addSettings struct {
	ByID
	Place    string `query:"place" required:"true" maxLength:"40" doc:"Where they live"`
	Name     string `query:"name"     required:"true" minLength:"1" maxLength:"120"`
	Original string `query:"original" maxLength:"200" doc:"Where the file is kept that holds the secrets"`
	Card     bool   `query:"card"     doc:"It belongs to the card that is in the machine"`
	Build    int64  `query:"build"    minimum:"0" doc:"It belongs to this build, whatever runs it"`
	Taken    string `query:"taken"    maxLength:"40" doc:"When it was taken; now when empty"`
	RawBody  []byte `contentType:"text/plain"`
}

func (s *Server) addSettings(ctx context.Context, u user, in *addSettings) (*answer[app.MachineSettings], error) {
	taken, err := s.moment(in.Taken)
	if err != nil {
		return nil, err
	}
	n := app.NewSettings{Place: drift.Where(in.Place), Name: in.Name, Card: in.Card, Original: in.Original, TakenAt: taken,
		Text: in.RawBody, MachineID: in.ID, BuildID: in.Build}
	if _, err := s.app.AddSettings(ctx, n, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.app.MachineSettings(ctx, in.ID))
}

// SettingWords are the words of settings that are known.
type SettingWords struct {
	Shop         []store.ShopWord  `json:"shop"    doc:"Of this shop; they count over those of the program"`
	Shipped      []settings.Word   `json:"shipped" doc:"Of the program"`
	Calibrations []CalibrationName `json:"calibrations"`
}

// CalibrationName is a calibration with the numbers of which its value is made.
type CalibrationName struct {
	Kind  calibration.Kind `json:"kind"`
	Title string           `json:"title"`
	Parts []string         `json:"parts"`
}

func (s *Server) settingWords(ctx context.Context, _ user, _ *none) (*answer[SettingWords], error) {
	out := SettingWords{Shipped: settings.Shipped().List(), Calibrations: []CalibrationName{}}
	for _, c := range calibration.All() {
		name := CalibrationName{Kind: c.Kind, Title: c.Title, Parts: []string{}}
		for _, p := range c.Parts {
			name.Parts = append(name.Parts, p.Name)
		}
		out.Calibrations = append(out.Calibrations, name)
	}
	var err error
	out.Shop, err = s.app.ShopWords(ctx)
	return answerOf(out, err)
}

type saveWord struct{ Body settings.Word }

type wantFeatures struct {
	ByID
	Body struct {
		Features []string `json:"features" maxItems:"50"`
	}
}

func (s *Server) wantFeatures(ctx context.Context, _ user, in *wantFeatures) (*answer[firmware.Wanted], error) {
	return answerOf(s.app.WantFeatures(ctx, in.ID, in.Body.Features))
}

type flashChecks struct {
	ByID
	Build int64 `path:"build" minimum:"1"`
}

func (s *Server) flashChecks(ctx context.Context, _ user, in *flashChecks) (*answer[app.FlashChecks], error) {
	return answerOf(s.app.FlashChecks(ctx, in.ID, in.Build, s.now()))
}

type hostMessage struct {
	ByID
	Body struct {
		Text string `json:"text" minLength:"1" maxLength:"5000"`
	}
}

func (s *Server) hostMessage(ctx context.Context, _ user, in *hostMessage) (*answer[[]app.MessageMeaning], error) {
	return answerOf(s.app.HostMessage(ctx, in.ID, in.Body.Text))
}

type decideFlash struct {
	ByID
	Body struct {
		Answer  string `json:"answer" enum:"leave it alone,wanted"`
		Reason  string `json:"reason" minLength:"1" maxLength:"300"`
		Unlocks string `json:"unlocks,omitempty" maxLength:"300"`
	}
}

func (s *Server) decideFlash(ctx context.Context, u user, in *decideFlash) (*noContent, error) {
	d := store.FlashDecision{Answer: in.Body.Answer, Reason: in.Body.Reason, Unlocks: in.Body.Unlocks}
	return emptyAnswer(s.app.DecideFlash(ctx, in.ID, d, u.Name, s.now()))
}

type addWayBack struct {
	ByID
	Body struct {
		Kind   string    `json:"kind" enum:"memory card,host card,backup,build file,settings with secrets"`
		Name   string    `json:"name"  minLength:"1" maxLength:"120"`
		Place  string    `json:"place" minLength:"1" maxLength:"200" doc:"Where it lies"`
		MadeOn civil.Day `json:"madeOn"`
		Note   string    `json:"note,omitempty" maxLength:"500"`
	}
}

func (s *Server) addWayBack(ctx context.Context, u user, in *addWayBack) (*answer[Made], error) {
	b := in.Body
	id, err := s.app.AddWayBack(ctx, store.WayBack{Kind: b.Kind, Name: b.Name, Place: b.Place, MachineID: in.ID,
		MadeOn: b.MadeOn,
		Note:   b.Note}, u.Name, s.now())
	return answerOf(Made{id}, err)
}

type endWayBack struct {
	ByID
	Back int64 `path:"back" minimum:"1"`
}

type openHostUpdate struct {
	ByID
	Body struct {
		Reason string `json:"reason" maxLength:"300"`
	}
}

type changeOfFamily struct {
	ByID
	To string `query:"to" required:"true" enum:"compiled,hosted,scripted"`
}

func (s *Server) changeOfFamily(ctx context.Context, _ user, in *changeOfFamily) (*answer[[]carryover.FamilyItem],
	error) {
	return answerOf(s.app.ChangeOfFamily(ctx, in.ID, in.To))
}

type carryOver struct {
	Body struct {
		Own     int64     `json:"own" minimum:"1" doc:"Number of the settings file of the machine"`
		Example SentFile  `json:"example" doc:"Of the new version"`
		Before  *SentFile `json:"before,omitempty" doc:"The example that the machine's was made from"`
		From    string    `json:"from" minLength:"1" maxLength:"60" doc:"Version"`
		To      string    `json:"to"   minLength:"1" maxLength:"60" doc:"Version"`
	}
}

// CarriedOver is a configuration that was carried over.
type CarriedOver struct {
	carryover.Carried
	Result string `json:"result" doc:"The new configuration, as far as it is decided"`
}

func (s *Server) carryOver(ctx context.Context, u user, in *carryOver) (*answer[CarriedOver], error) {
	c := app.CarryOver{Own: in.Body.Own, From: in.Body.From, To: in.Body.To}
	err := s.read(ctx, u, in.Body.Example, func(content []byte, _ store.ImportFile) error {
		c.Example = content
		return nil
	})
	if err != nil {
		return nil, err
	}
	if in.Body.Before != nil {
		err = s.read(ctx, u, *in.Body.Before, func(content []byte, _ store.ImportFile) error {
			c.Before = content
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	out, err := s.app.CarryOver(ctx, c)
	return answerOf(CarriedOver{out, out.Text}, err)
}

type decideCarryOver struct {
	Body struct {
		Family   string             `json:"family" enum:"compiled,hosted,scripted"`
		From     string             `json:"from" minLength:"1" maxLength:"60"`
		To       string             `json:"to"   minLength:"1" maxLength:"60"`
		Decision carryover.Decision `json:"decision"`
	}
}

func (s *Server) decideCarryOver(ctx context.Context, u user, in *decideCarryOver) (*noContent, error) {
	b := in.Body
	v := store.Versions{Family: b.Family, From: b.From, To: b.To}
	return emptyAnswer(s.app.DecideCarryover(ctx, v, b.Decision, u.Name, s.now()))
}

type addBuildFile struct {
	ByID
	Name     string `query:"name" required:"true" minLength:"1" maxLength:"120"`
	Kind     string `query:"kind" required:"true" enum:"build,configuration"`
	Original string `query:"original" maxLength:"200" doc:"Of a configuration: where the file with its secrets is kept"`
	RawBody  []byte `contentType:"application/octet-stream"`
}

func (s *Server) addBuildFile(ctx context.Context, u user, in *addBuildFile) (*answer[BuildSheet], error) {
	var err error
	if in.Kind == "configuration" {
		_, err = s.app.AddSettings(ctx, app.NewSettings{Place: drift.BuildConfiguration, Name: in.Name, BuildID: in.ID,
			Original: in.Original, Text: in.RawBody}, u.Name, s.now())
	} else {
		err = s.app.AddBuildFile(ctx, in.ID, store.BuildFile{Name: in.Name}, in.RawBody, u.Name, s.now())
	}
	if err != nil {
		return nil, err
	}
	return s.build(ctx, u, &in.ByID)
}

// buildFile hands a file of a build out as it was kept.
func (s *Server) buildFile(g *gin.Context) error {
	var at [2]int64
	for i, name := range []string{"id", "file"} {
		n, err := strconv.ParseInt(g.Param(name), 10, 64)
		if err != nil || n < 1 {
			return newProblem(http.StatusUnprocessableEntity, "A file of a build has a number, 1 or more.", nil)
		}
		at[i] = n
	}
	f, content, err := s.Store.BuildFile(g.Request.Context(), at[0], at[1])
	if err != nil {
		return err
	}
	g.Header("Content-Disposition", contentDisposition(f.Name))
	g.Header("X-Content-Type-Options", "nosniff")
	g.Data(http.StatusOK, "application/octet-stream", content)
	return nil
}
