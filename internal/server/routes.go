package server

import (
	"wardifex/internal/core/recordfile"
	"wardifex/internal/picture"
	"wardifex/internal/store"
)

// routes lists every operation with the least role that may call it.
func (s *Server) routes() {
	handle(s, public, "GET", "/session", "session", "Who is signed in", s.session)
	handle(s, public, "POST", "/session", "sign-in", "Sign in", s.signIn, ownTransactions, personal)
	handle(s, public, "DELETE", "/session", "sign-out", "Sign out", s.signOut, ownTransactions, personal)

	handle(s, store.Member, "GET", "/machines", "fleet", "The fleet by slot", s.fleet)
	handle(s, store.Technician, "POST", "/machines", "add-machine", "Put a machine into the register", s.addMachine)
	handle(s, store.Technician, "POST", "/fleet/machines", "add-machines", "Put several alike machines into the register",
		s.addMachines)
	handle(s, store.Member, "GET", "/machines/{id}", "sheet", "One machine's sheet", s.sheet)
	handle(s, store.Technician, "PUT", "/machines/{id}", "change-machine", "Change a machine's fields", s.changeMachine)
	handle(s, store.Member, "GET", "/machines/{id}/structure", "structure", "Which positions a machine has", s.structure)
	handle(s, store.Technician, "POST", "/machines/{id}/positions", "add-position",
		"Add a position to a machine", s.addPosition)
	handle(s, store.Technician, "PUT", "/machines/{id}/positions/{position}", "change-position",
		"Place, name or link a position otherwise", s.changePosition)
	handle(s, store.Technician, "POST", "/machines/{id}/positions/{position}/remove", "remove-position",
		"Take an empty position off a machine's list", s.removePosition)
	handle(s, store.Lead, "POST", "/machines/{id}/retire", "retire", "Retire a machine or bring it back", s.retire)
	handle(s, store.Technician, "POST", "/machines/{id}/readings", "add-reading", "Record a reading", s.addReading)
	handle(s, store.Technician, "POST", "/machines/{id}/settle", "settle", "Settle a conflict", s.settle)
	handle(s, store.Technician, "POST", "/machines/{id}/exchange", "exchange",
		"Record that a part was changed", s.exchange)
	handle(s, store.Technician, "POST", "/readings/{id}/take-back", "take-back", "Take a reading back", s.takeBack)
	handle(s, store.Technician, "POST", "/machines/{id}/calibrations", "calibrate",
		"Record a calibration or proof", s.calibrate)
	handle(s, store.Technician, "POST", "/machines/{id}/meter", "read-meter",
		"Record a print-hour meter's reading", s.readMeter)
	handle(s, store.Technician, "POST", "/machines/{id}/done", "mark-done",
		"Record that a maintenance task was done", s.markDone)
	handle(s, store.Technician, "POST", "/machines/{id}/undo-done", "undo-done",
		"Take the newest mark of a task back", s.undoDone)
	handle(s, store.Member, "GET", "/safety", "safety-file", "The safety file of today, or as it was kept on a day",
		s.safetyFile, fleetWide)
	handle(s, store.Technician, "POST", "/safety", "keep-safety-file", "Keep the safety file of today", s.keepSafetyFile)
	handle(s, store.Member, "GET", "/machines/{id}/calibration-history", "calibration-history",
		"How a calibration came about, and what other machines have", s.calibrationHistory)
	handle(s, store.Member, "GET", "/calibrations", "calibrations", "How calibrations and proofs stand over the fleet",
		s.calibrations, fleetWide)
	handle(s, store.Member, "GET", "/due", "due", "Maintenance that comes next over the fleet", s.due)

	handle(s, store.Member, "GET", "/kits", "kits", "The catalogue's kits", s.kits)
	handle(s, store.Member, "GET", "/kits/{key}/verdicts", "verdicts", "A kit judged on every machine",
		s.verdicts, fleetWide)
	handle(s, store.Member, "GET", "/kits/{key}/machines/{id}", "verdict",
		"A kit judged on one machine, with reasons and consequences", s.verdict)

	handle(s, store.Member, "GET", "/work", "orders", "Work orders", s.orders)
	handle(s, store.Technician, "POST", "/work", "open-work", "Open a work order", s.openWork)
	handle(s, store.Technician, "POST", "/machines/{id}/swap", "open-swap",
		"Open a work order for one part for another", s.openSwap)
	handle(s, store.Technician, "POST", "/machines/{id}/flash", "open-flash",
		"Open a work order for another build", s.openFlash)
	handle(s, store.Technician, "POST", "/work/plan", "open-plan",
		"Open the work of a plan: the first order now, the others after it", s.openPlan)
	handle(s, store.Technician, "POST", "/work/repair", "open-repair", "Open a work order for a fault", s.openRepair)
	handle(s, store.Technician, "POST", "/work/task", "open-task",
		"Open a work order for a task of maintenance", s.openTask)
	handle(s, store.Technician, "POST", "/work/mount", "open-mount",
		"Open a work order for another head, where heads are changed by hand", s.openMount)
	handle(s, store.Technician, "POST", "/work/batch", "open-batch",
		"Open a kit's work orders on several machines", s.openBatch)
	handle(s, store.Member, "GET", "/work/{id}/batch", "batch", "The orders of a batch, step by step", s.batch)
	handle(s, store.Technician, "POST", "/work/{id}/parts", "fit-other",
		"Say that another part went in than was written", s.fitOther)
	handle(s, store.Technician, "POST", "/work/{id}/pasted", "record-pasted",
		"Record values that pasted settings state", s.recordPasted)
	handle(s, store.Technician, "POST", "/work/{id}/roll-back", "roll-back",
		"Put the machine back as it was, step by step", s.rollBack)
	handle(s, store.Technician, "POST", "/work/{id}/begin", "begin-planned", "Open a planned work order", s.beginPlanned)
	handle(s, store.Member, "GET", "/work/{id}", "order", "A work order with its steps", s.order)
	handle(s, store.Member, "GET", "/work/{id}/stale-files", "stale-files",
		"Known files that print now and not once the work is done", s.staleFiles)
	handle(s, store.Technician, "POST", "/work/{id}/steps/{step}", "save-step",
		"Keep, tick, skip or undo a step", s.saveStep)
	handle(s, store.Technician, "POST", "/work/{id}/steps/{step}/photos", "add-photo",
		"Keep a photo with a step", s.addPhoto, fileUpTo(picture.MaxBytes), preparing)
	handle(s, store.Technician, "POST", "/work/{id}/steps", "add-step", "Add a step of the house's own", s.addStep)
	handle(s, store.Technician, "POST", "/work/{id}/lock", "put-lock", "Put your own lock on", s.putLock)
	handle(s, store.Technician, "POST", "/work/{id}/locks/{lock}/off", "take-lock",
		"Take your lock off, or as a lead another's with a reason", s.takeLock)
	handle(s, store.Technician, "POST", "/work/{id}/park", "park", "Leave the work of an order for a while", s.park)
	handle(s, store.Technician, "POST", "/work/{id}/resume", "resume", "Go on with parked work", s.resume)
	handle(s, store.Technician, "POST", "/work/{id}/finish", "finish", "Finish a work order", s.finish)
	handle(s, store.Technician, "POST", "/work/{id}/abandon", "abandon",
		"Close a work order of which nothing was done", s.abandon)
	handle(s, store.Technician, "POST", "/work/{id}/plan-again", "plan-again",
		"Put a work order back into the plan of its machine", s.planAgain)

	handle(s, store.Technician, "POST", "/uploads", "upload",
		"Send a file in, to be read by what follows", s.upload, fileUpTo(recordfile.MaxBytes), streaming)
	handle(s, store.Technician, "POST", "/register/open", "open-register",
		"Read a register file and propose what its columns are", s.openRegister, reading)
	handle(s, store.Technician, "POST", "/register/preview", "preview-register",
		"What importing the file would do", s.previewRegister, reading)
	handle(s, store.Technician, "POST", "/register/understand", "understand-register",
		"How the cells of the matched columns are read, and what has to be asked", s.understandRegister, reading)
	handle(s, store.Technician, "POST", "/register/import", "import-register",
		"Import the file as previewed", s.importRegister)
	handle(s, store.Technician, "GET", "/imports", "imports", "Who imported which file, newest first", s.imports)
	handle(s, store.Technician, "POST", "/meters/preview", "preview-meters",
		"What importing meter readings would do", s.previewMeters, reading)
	handle(s, store.Technician, "POST", "/meters/import", "import-meters", "Import meter readings", s.importMeters)

	handle(s, store.Member, "GET", "/bench/processor-marking", "decode-marking",
		"Decode a processor marking as far as typed", s.decodeMarking)
	handle(s, store.Member, "POST", "/bench/z-offset", "z-offset",
		"The next Z offset from the gap seen", s.zOffset, reading)
	handle(s, store.Member, "POST", "/bench/sensor", "identify-sensor",
		"Tell a temperature sensor from two resistances", s.sensor, reading)
	handle(s, store.Member, "GET", "/bench", "calculators", "Calculators, with what each asks for", s.calculators)
	handle(s, store.Member, "POST", "/bench/{name}", "do-sum", "Do a sum of the bench", s.doSum, reading)
	handle(s, store.Member, "POST", "/bench/wires", "check-wires", "The arithmetic of a wire sheet", s.checkWires, reading)
	handle(s, store.Member, "POST", "/numbers", "read-number",
		"How a number is understood as it is typed", s.readNumber, reading)
	handle(s, store.Member, "GET", "/days", "read-day", "How a date is understood as it is typed", s.readDay)
	handle(s, store.Member, "GET", "/names", "account-names",
		"Names of people with an account; any other name on record is as it was written", s.accountNames)
	s.peopleRoutes()
	s.calendarRoutes()
	s.rosterRoutes()
	s.tokenRoutes()
	s.firmwareRoutes()
	s.printFileRoutes()
	handle(s, store.Member, "GET", "/shop", "get-shop", "What is set for the shop", s.shop)
	handle(s, store.Technician, "POST", "/meters", "read-meters",
		"Record what the meters of several machines show, all or none; for programs", s.readMeters)
	handle(s, store.Member, "GET", "/tasks", "tasks", "The maintenance tasks of the shop", s.tasks)
	handle(s, store.Technician, "PUT", "/tasks/{key}", "save-task", "Write a task as the shop's own", s.saveTask)
	handle(s, store.Technician, "DELETE", "/tasks/{key}", "reset-task",
		"Take the shop's own task away: a shipped one is in its place again", s.resetTask)
	handle(s, store.Lead, "PUT", "/shop", "set-shop",
		"Set the shop's settings; days on record stay as they are", s.setShop)

	handle(s, store.Member, "POST", "/fleet/ask", "ask-fleet", "Put a question to the fleet",
		s.askFleet, reading, fleetWide)
	handle(s, store.Member, "GET", "/fleet/values", "fleet-values", "Values that stand in a column over the fleet",
		s.fleetValues, fleetWide)
	handle(s, store.Member, "GET", "/fleet/askable", "askable", "What can be asked, and the saved questions", s.askable)
	handle(s, store.Technician, "POST", "/questions", "save-question", "Keep a question under a name", s.saveQuestion)
	handle(s, store.Technician, "POST", "/questions/{id}/delete", "delete-question",
		"Forget a saved question", s.deleteQuestion)

	handle(s, store.Member, "GET", "/machines/{id}/as-of", "as-of", "A machine as the record stood on a day", s.asOf)
	handle(s, store.Member, "GET", "/machines/{id}/timeline", "timeline", "What happened to a machine", s.timeline)
	handle(s, store.Technician, "GET", "/machines/{id}/cost", "cost", "What a machine has cost", s.cost)
	handle(s, store.Technician, "POST", "/machines/{id}/labour", "log-work", "Record time spent on a machine", s.logWork)
	handle(s, store.Member, "GET", "/compare", "compare", "Two machines, or two days of one, slot by slot", s.compare)

	handle(s, store.Member, "GET", "/identify", "identify",
		"What to find out on machines, in the order in which they are opened", s.identify)
	handle(s, store.Member, "GET", "/conflicts", "conflicts",
		"Traits on which equally good readings differ, over the fleet", s.conflicts)
	handle(s, store.Member, "GET", "/machines/{id}/peek", "peek", "What an answer says as far as it is typed", s.peek)
	handle(s, store.Member, "GET", "/machines/{id}/contradictions", "contradictions",
		"What cannot be true together on a machine", s.contradictions)
	handle(s, store.Technician, "POST", "/machines/{id}/unreadable", "unreadable",
		"Record that something could not be read", s.unreadable)
	handle(s, store.Technician, "POST", "/machines/{id}/readable", "readable",
		"Undo the newest mark that something could not be read", s.readable)

	handle(s, store.Member, "GET", "/parts", "parts", "Every part and where it is", s.parts)
	handle(s, store.Technician, "POST", "/parts", "add-part", "Put a part on the shelf", s.addPart)
	handle(s, store.Member, "GET", "/parts/{id}", "part", "One part", s.part)
	handle(s, store.Technician, "PUT", "/parts/{id}", "change-part", "Change a part's fields", s.changePart)
	handle(s, store.Technician, "POST", "/parts/{id}/readings", "add-part-reading",
		"Record a reading of a part on the shelf", s.addPartReading)
	handle(s, store.Technician, "POST", "/parts/{id}/move", "move-part",
		"Move a part to a machine, the shelf or scrap", s.movePart)
	handle(s, store.Member, "GET", "/parts/{id}/fits", "part-fits",
		"A part judged at every position of the fleet that holds its kind", s.partFits, fleetWide)
	handle(s, store.Member, "GET", "/machines/{id}/positions/{position}/parts", "parts-for",
		"Parts on the shelf judged at a position, and what breaks when its part comes out", s.partsFor)
	handle(s, store.Technician, "GET", "/suppliers", "suppliers", "Suppliers by how often their claims failed",
		s.suppliers, fleetWide)

	handle(s, store.Technician, "GET", "/purchases", "purchases", "What was ordered, and what is claimed of suppliers",
		s.purchases)
	handle(s, store.Technician, "POST", "/purchases", "place-orders", "Put orders on record", s.placeOrders)
	handle(s, store.Technician, "GET", "/purchases/{id}", "purchase", "An order, what came of it and what to check",
		s.purchase)
	handle(s, store.Technician, "PUT", "/purchases/{id}", "change-order", "Change an order, close it or open it again",
		s.changeOrder)
	handle(s, store.Technician, "POST", "/purchases/{id}/arrivals", "receive", "Take in one thing of an order", s.receive)
	handle(s, store.Technician, "POST", "/arrivals/{id}/claim", "change-claim", "Say how far a claim has come",
		s.changeClaim)
	handle(s, store.Technician, "POST", "/arrivals/{id}/photos", "add-arrival-photo",
		"Keep a photo with something that came", s.addArrivalPhoto, fileUpTo(picture.MaxBytes), preparing)

	handle(s, store.Member, "GET", "/builds", "builds", "Firmware builds and on how many boards they run", s.builds)
	handle(s, store.Technician, "POST", "/builds", "add-build", "Record a firmware build", s.addBuild)
	handle(s, store.Member, "GET", "/builds/{id}", "build",
		"A firmware build, where it runs and ran, and what is fitted there otherwise", s.build)
	handle(s, store.Technician, "PUT", "/builds/{id}", "save-build", "Write a firmware build", s.saveBuild)
	handle(s, store.Technician, "POST", "/builds/{id}/delete", "delete-build",
		"Take a build off the record that never ran", s.deleteBuild)
	handle(s, store.Member, "GET", "/machines/{id}/runs", "runs",
		"What the boards of a machine run and ran, and what its parts ask of the build", s.runs)
	handle(s, store.Technician, "POST", "/machines/{id}/runs", "start-run",
		"Record that a board runs another build from a day on", s.startRun)
	handle(s, store.Technician, "PUT", "/machines/{id}/runs/{run}", "correct-run",
		"Say which build a run is of, and from when to when", s.correctRun)

	handle(s, store.Member, "GET", "/machines/{id}/wires", "wires", "A machine's wire sheets", s.wiring)
	handle(s, store.Technician, "PUT", "/machines/{id}/wires", "save-wires", "Write a wire sheet", s.saveWires)

	handle(s, store.Member, "GET", "/faults", "faults", "Faults reported", s.faults)
	handle(s, store.Technician, "GET", "/dangers", "dangers", "Dangers that were reported and whose fault is open",
		s.dangers)
	handle(s, store.Member, "GET", "/symptoms", "propose-symptoms", "What a report's words may mean", s.proposeSymptoms)
	handle(s, store.Member, "POST", "/machines/{id}/faults", "report-fault", "Report a fault", s.reportFault)
	handle(s, store.Member, "POST", "/faults/{id}/photos", "add-fault-photo",
		"Keep a photo with a fault", s.addFaultPhoto, fileUpTo(picture.MaxBytes), preparing)
	handle(s, store.Member, "GET", "/usable", "usable-machines", "Which machines can be used now, freest first",
		s.usable, fleetWide)
	handle(s, store.Member, "GET", "/machines/{id}/usable", "usable-machine",
		"Whether one machine can be used now, and for what", s.forMember)
	handle(s, store.Technician, "POST", "/faults/{id}/take", "take-fault", "Say that you are on a fault, or no more",
		s.takeFault)
	handle(s, store.Technician, "POST", "/faults/{id}/close", "close-fault",
		"Answer a fault or open it again", s.closeFault)
	handle(s, store.Technician, "POST", "/fleet/use", "set-uses", "Say what several machines may be used for",
		s.setUses)
	handle(s, store.Technician, "POST", "/machines/{id}/use", "set-use", "Say what a machine may be used for", s.setUse)
	handle(s, store.Technician, "POST", "/readings/{id}/photos", "add-reading-photo",
		"Keep a photo beside a reading", s.addReadingPhoto, fileUpTo(picture.MaxBytes), preparing)

	handle(s, store.Member, "GET", "/catalogue", "catalogue", "Kinds of part, slots, inspections and models", s.catalogue)
	handle(s, store.Technician, "POST", "/catalogue/entries", "save-entry", "Add or change a catalogue entry", s.saveEntry)
	handle(s, store.Technician, "POST", "/catalogue/entries/delete", "delete-entry",
		"Delete a catalogue entry that nothing uses", s.deleteEntry)
	handle(s, store.Technician, "POST", "/catalogue/preview", "preview-catalogue",
		"What importing a catalogue file would do", s.previewCatalogue, reading)
	handle(s, store.Technician, "POST", "/catalogue/import", "import-catalogue",
		"Import a catalogue file", s.importCatalogue)
	handle(s, store.Technician, "POST", "/record/preview", "preview-record",
		"What importing a record would do", s.previewRecord, reading)
	handle(s, store.Technician, "POST", "/record/import", "import-record", "Import a record of machines", s.importRecord)

	handle(s, store.Member, "GET", "/matrix", "matrix", "Every kit judged on every machine", s.matrix, fleetWide)
	handle(s, store.Member, "GET", "/machines/{id}/kits", "machine-kits", "Every kit judged on one machine", s.machineKits)
	handle(s, store.Member, "POST", "/plans", "judge-plan",
		"Several kits on one machine, judged together", s.judgePlan, reading, fleetWide)
	handle(s, store.Member, "POST", "/orders", "order-for", "What has to be bought for a selection", s.orderFor, reading)
	handle(s, store.Member, "POST", "/orders.csv", "order-list-csv", "The same as a file: CSV", s.orderCSV, reading,
		fleetWide)
	handle(s, store.Member, "GET", "/kits/{key}/machines/{id}/advice", "advice",
		"What would make a kit fit, where to look, what follows", s.advice)
	handle(s, store.Member, "GET", "/kits/{key}/look", "look-at-fleet",
		"Which machines to open first for a kit ordered several times", s.lookAtFleet, fleetWide)
	handle(s, store.Member, "GET", "/kit-words", "kit-words", "What a kit's needs are written with", s.kitWords)
	handle(s, store.Member, "GET", "/kits/{key}/entry", "kit-entry", "A kit for editing", s.kitEntry)
	handle(s, store.Member, "GET", "/kits/{key}/lasting", "lasting-needs",
		"Needs of a kit that could be moved to the model that it fits", s.lastingNeeds)
	handle(s, store.Technician, "POST", "/kits/{key}/lasting", "move-lasting",
		"Move needs of a kit to the model that it fits", s.moveLasting)
	handle(s, store.Technician, "POST", "/kits/try", "try-kit",
		"Judge a kit on the fleet before it is saved", s.tryKit, reading, fleetWide)
	handle(s, store.Technician, "POST", "/kits", "save-kit", "Add or change a kit", s.saveKit)
	handle(s, store.Technician, "POST", "/kits/{key}/hide", "hide-kit", "Hide a kit in this shop, or show it again",
		s.hideKit)
	handle(s, store.Technician, "POST", "/kits/{key}/delete", "delete-kit",
		"Delete a kit, or put it back as it came with the application", s.deleteKit)
	handle(s, store.Member, "GET", "/changes", "changes", "Who did what: to one thing, or for the lead to all", s.changes)
}
