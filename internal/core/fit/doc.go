// Package fit judges whether an upgrade fits a machine.
//
// A Requirement is data: a test of one trait, a formula over several, a further
// change that is always open, or a group of requirements. It is judged on
// three levels, No < If < Yes, where If means "with additional changes". What is
// unknown is not a level of its own but an interval of levels: a fact that is
// unknown, too weakly grounded or in conflict leaves its test anywhere from No
// to Yes. Groups take the least (all) or the greatest (any) end by end. On
// intervals without If this is Kleene's three-valued logic. Source: Kleene,
// Introduction to Metamathematics, 1952, §64.
package fit
