// Package changetest types into the steps of work orders, in tests.
package changetest

import (
	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
)

// Fill is what a technician types into a step, and the note.
func Fill(st change.Step) (data change.Data, note string) {
	switch st.Form {
	case change.NoteForm:
		return change.Data{}, "M92 E95"
	case change.FileNameForm:
		return change.Data{File: "new.bin"}, ""
	case change.BuildForm:
		return change.Data{Version: "2.1", Label: "AVOCET", File: "new.bin", Size: "191"}, ""
	case change.ColdForm:
		data = change.Data{Room: "21", Nozzle: "21", Bed: "22"}
		for range st.Sensors {
			data.Shown = append(data.Shown, "21")
		}
		return data, ""
	case change.ProtectionForm:
		return change.Data{TestMethod: "no-heat", Alarm: "190", AlarmText: "Heating failed", Configuration: "rev 1"}, ""
	case change.ZOffsetForm:
		return change.Data{BedTemperature: "60", SoakMinutes: "5", Store: calibration.StoreSettings,
			Rounds: []bench.ZOffsetRound{bench.NextZOffset(0, 2.7, false), bench.NextZOffset(-2.7, 0, true)}}, ""
	case change.CalibrationForm:
		data = change.Data{Value: "1.5", Store: calibration.StoreSettings, Sure: true}
		for range st.Parts {
			data.Numbers = append(data.Numbers, "1.5")
		}
		return data, ""
	case change.MeasuresForm:
		return change.Data{Numbers: []string{"53", "62"}}, ""
	}
	if st.Licensed {
		return change.Data{Licensed: "E. Lind, licence 88"}, ""
	}
	return change.Data{}, ""
}
