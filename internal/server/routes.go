package server

import (
	"wardifex/internal/core/register"
	"wardifex/internal/store"
)

// routes lists every operation with the least role that may call it.
func (s *Server) routes() {
	handle(s, anybody, "GET", "/session", "session", "Who is signed in", s.session)
	handle(s, anybody, "POST", "/session", "sign-in", "Sign in", s.signIn)
	handle(s, anybody, "DELETE", "/session", "sign-out", "Sign out", s.signOut)

	handle(s, store.Member, "GET", "/machines", "fleet", "The fleet by slot", s.fleet)
	handle(s, store.Technician, "POST", "/machines", "add-machine", "Put a machine into the register", s.addMachine)
	handle(s, store.Member, "GET", "/machines/{id}", "sheet", "One machine's sheet", s.sheet)
	handle(s, store.Technician, "PUT", "/machines/{id}", "change-machine", "Change a machine's fields", s.changeMachine)
	handle(s, store.Lead, "POST", "/machines/{id}/retire", "retire", "Retire a machine or bring it back", s.retire)
	handle(s, store.Technician, "POST", "/machines/{id}/readings", "add-reading", "Record a reading", s.addReading)
	handle(s, store.Technician, "POST", "/machines/{id}/settle", "settle", "Settle a conflict", s.settle)
	handle(s, store.Technician, "POST", "/machines/{id}/exchange", "exchange", "Record that a part was changed", s.exchange)
	handle(s, store.Technician, "POST", "/readings/{id}/take-back", "take-back", "Take a reading back", s.takeBack)
	handle(s, store.Technician, "POST", "/machines/{id}/calibrations", "calibrate", "Record a calibration or proof", s.calibrate)
	handle(s, store.Technician, "POST", "/machines/{id}/meter", "read-meter", "Record a print-hour meter's reading", s.readMeter)
	handle(s, store.Technician, "POST", "/machines/{id}/done", "mark-done", "Record that a maintenance task was done", s.markDone)
	handle(s, store.Technician, "POST", "/machines/{id}/undo-done", "undo-done", "Take the newest mark of a task back", s.undoDone)
	handle(s, store.Member, "GET", "/due", "due", "Maintenance that comes next over the fleet", s.due)

	handle(s, store.Member, "GET", "/kits", "kits", "The catalogue's kits", s.kits)
	handle(s, store.Member, "GET", "/kits/{key}/verdicts", "verdicts", "A kit judged on every machine", s.verdicts)
	handle(s, store.Member, "GET", "/kits/{key}/machines/{id}", "verdict", "A kit judged on one machine, with reasons and consequences", s.verdict)

	handle(s, store.Member, "GET", "/work", "orders", "Work orders", s.orders)
	handle(s, store.Technician, "POST", "/work", "open-work", "Open a work order", s.openWork)
	handle(s, store.Member, "GET", "/work/{id}", "order", "A work order with its steps", s.order)
	handle(s, store.Technician, "POST", "/work/{id}/steps/{step}", "save-step", "Keep, tick, skip or undo a step", s.saveStep)
	handle(s, store.Technician, "POST", "/work/{id}/steps/{step}/photos", "add-photo", "Keep a photo with a step", s.addPhoto, bodyUpTo(maxPhotoBytes))
	handle(s, store.Technician, "POST", "/work/{id}/finish", "finish", "Finish a work order", s.finish)
	handle(s, store.Technician, "POST", "/work/{id}/abandon", "abandon", "Close a work order of which nothing was done", s.abandon)
	handle(s, store.Member, "GET", "/photos/{id}", "photo", "A photo", s.photo)

	handle(s, store.Technician, "POST", "/register/open", "open-register", "Read a register file and propose what its columns are", s.openRegister, bodyUpTo(2*register.MaxBytes))
	handle(s, store.Technician, "POST", "/register/preview", "preview-register", "What bringing the file in would do", s.previewRegister, bodyUpTo(2*register.MaxBytes))
	handle(s, store.Technician, "POST", "/register/bring-in", "bring-in", "Bring the file in as previewed", s.bringIn, bodyUpTo(2*register.MaxBytes))
	handle(s, store.Technician, "POST", "/meters/preview", "preview-meters", "What bringing meter readings in would do", s.previewMeters, bodyUpTo(2*register.MaxBytes))
	handle(s, store.Technician, "POST", "/meters/bring-in", "bring-meters-in", "Bring meter readings in", s.bringMetersIn, bodyUpTo(2*register.MaxBytes))

	handle(s, store.Member, "GET", "/bench/processor-marking", "decode-marking", "Decode a processor marking as far as typed", s.decodeMarking)
	handle(s, store.Member, "POST", "/bench/z-offset", "z-offset", "The next Z offset from the gap seen", s.zOffset)
}
