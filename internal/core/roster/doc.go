// Package roster places the work of a fleet on days and people.
//
// Work that is due, open or planned becomes jobs; a job has a machine, takes minutes, and may ask
// for a skill, for parts, for power, or for other jobs before it. A plan gives each job a doer and a
// beginning on a grid of slots, or leaves it unplaced.
//
// No plan breaks a hard rule:
//
//   - a job lies in its doer's shift, in one piece, unless it may be left over the end of a shift;
//   - its doer has the skill, and does one job at a time;
//   - its machine has one job at a time, and no booking while it is down;
//   - on a machine that is locked out, the work that unlocks it comes first;
//   - its parts are in stock by then, or have arrived;
//   - what comes before it is done;
//   - what safety depends on is done by its limit, unless the limit has passed already;
//   - in opening hours as many machines of each ability stay up as the shop's floor says. Where
//     fewer are up to begin with, no job takes one more down. A machine that is down to begin with
//     counts as down throughout: its repair may fail;
//   - what heats at one time on one circuit stays below its limit.
//
// Among those a plan is the better the less it costs. All costs are in minutes: see Weights.
package roster
