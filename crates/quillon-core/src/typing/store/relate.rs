//! Makes types go together.

use super::{Args, Clash, Fit, Slot, Store, TypeId, Variable};
use crate::typing::Con;

/// Two types that have to go together.
#[derive(Clone, Copy, Debug)]
struct Pair {
    found: TypeId,
    wanted: TypeId,
    fit: Fit,
}

/// A type that is made of others.
#[derive(Clone, Copy, Debug)]
struct Made {
    id: TypeId,
    con: Con,
    args: Args,
}

impl Store {
    /// Makes two types go together, or says why they do not.
    pub fn relate(&mut self, found: TypeId, wanted: TypeId, fit: Fit) -> Result<(), Clash> {
        let mut waiting = vec![Pair { found, wanted, fit }];
        while let Some(pair) = waiting.pop() {
            self.relate_one(pair, &mut waiting)?;
        }
        Ok(())
    }

    /// Makes two types go together; the parts of theirs that have to are put among those that
    /// wait, the first of them last.
    fn relate_one(&mut self, pair: Pair, waiting: &mut Vec<Pair>) -> Result<(), Clash> {
        let Pair { found, wanted, fit } = pair;
        let (a, slot_a, origin_a) = self.find(found);
        let (b, slot_b, origin_b) = self.find(wanted);
        if a == b {
            return Ok(());
        }
        let mismatch = Clash::Mismatch {
            found: a,
            wanted: b,
        };
        match (slot_a, slot_b) {
            (Slot::Variable(one), Slot::Variable(other)) => {
                let both = Variable {
                    level: one.level.min(other.level),
                    birth: one.birth.min(other.birth),
                    reached: one.reached || other.reached,
                    numeric: one.numeric || other.numeric,
                };
                self.set(b, Slot::Variable(both), origin_b.or(origin_a));
                self.set(a, Slot::Link(b), origin_a);
                Ok(())
            }
            (Slot::Variable(variable), Slot::Any) => {
                if fit == Fit::Same {
                    self.meet_any(a, variable, b);
                }
                Ok(())
            }
            (Slot::Any, Slot::Variable(variable)) => {
                self.meet_any(b, variable, a);
                Ok(())
            }
            (Slot::Any, Slot::Con(..)) => {
                self.leaned_on_any = true;
                Ok(())
            }
            (Slot::Con(..), Slot::Any) => {
                self.leaned_on_any |= fit == Fit::Same;
                Ok(())
            }
            (Slot::Variable(variable), Slot::Con(con, _)) => {
                if fit == Fit::Accepted && con == Con::Number {
                    let numeric = Variable {
                        numeric: true,
                        ..variable
                    };
                    self.set(a, Slot::Variable(numeric), origin_a.or(origin_b));
                    return Ok(());
                }
                self.solve(a, variable, b, con, mismatch)
            }
            (Slot::Con(con, _), Slot::Variable(variable)) => {
                if fit == Fit::Accepted && con == Con::Integer {
                    let reached = Variable {
                        reached: true,
                        ..variable
                    };
                    self.set(b, Slot::Variable(reached), origin_b.or(origin_a));
                    return Ok(());
                }
                self.solve(b, variable, a, con, mismatch)
            }
            (Slot::Con(one, first), Slot::Con(other, second)) => {
                let found = Made {
                    id: a,
                    con: one,
                    args: first,
                };
                let wanted = Made {
                    id: b,
                    con: other,
                    args: second,
                };
                self.relate_made(found, wanted, fit, waiting)
            }
            // Nobody finds a link or a copy.
            (Slot::Any, Slot::Any)
            | (Slot::Link(_) | Slot::Copy(_), _)
            | (_, Slot::Link(_) | Slot::Copy(_)) => Ok(()),
        }
    }

    fn meet_any(&mut self, id: TypeId, variable: Variable, any: TypeId) {
        if variable.reached || variable.numeric {
            self.leaned_on_any = true;
        } else {
            self.set(id, Slot::Link(any), None);
        }
    }

    fn solve(
        &mut self,
        id: TypeId,
        variable: Variable,
        with: TypeId,
        con: Con,
        clash: Clash,
    ) -> Result<(), Clash> {
        let is_number = matches!(con, Con::Integer | Con::Number);
        if (variable.reached || variable.numeric) && !is_number {
            return Err(clash);
        }
        if !self.lower(with, id, variable) {
            return Err(Clash::Endless);
        }
        let origin = self.entry(id).origin;
        self.set(id, Slot::Link(with), origin);
        Ok(())
    }

    fn relate_made(
        &mut self,
        found: Made,
        wanted: Made,
        fit: Fit,
        waiting: &mut Vec<Pair>,
    ) -> Result<(), Clash> {
        if fit == Fit::Accepted && found.con == Con::Integer && wanted.con == Con::Number {
            return Ok(());
        }
        if let (Con::Function { .. }, Con::Function { .. }) = (found.con, wanted.con) {
            return self.relate_functions(found, wanted, fit, waiting);
        }
        if found.con != wanted.con || found.args.count != wanted.args.count {
            return Err(Clash::Mismatch {
                found: found.id,
                wanted: wanted.id,
            });
        }
        // What is inside a list or a map can be put in and taken out: it is the same.
        for index in (0..found.args.count).rev() {
            waiting.push(Pair {
                found: self.arg(found.args, index),
                wanted: self.arg(wanted.args, index),
                fit: Fit::Same,
            });
        }
        Ok(())
    }

    /// Functions: what is accepted as a parameter goes the other way.
    fn relate_functions(
        &mut self,
        found: Made,
        wanted: Made,
        fit: Fit,
        waiting: &mut Vec<Pair>,
    ) -> Result<(), Clash> {
        let (params_a, params_b) = (found.args.count - 1, wanted.args.count - 1);
        let (rest_a, rest_b) = (found.con.has_rest(), wanted.con.has_rest());
        let least = |params: u32, rest: bool| params - u32::from(rest);
        let fits = match (rest_a, rest_b) {
            (true, false) => params_b >= least(params_a, true),
            (false, true) => params_a >= least(params_b, true) && fit == Fit::Same,
            (true, true) | (false, false) => params_a == params_b,
        };
        if !fits {
            return Err(Clash::Count {
                found: found.id,
                wanted: wanted.id,
            });
        }
        waiting.push(Pair {
            found: self.arg(found.args, params_a),
            wanted: self.arg(wanted.args, params_b),
            fit,
        });
        for index in (0..params_a.max(params_b)).rev() {
            if index >= params_b && !rest_b || index >= params_a && !rest_a {
                continue;
            }
            waiting.push(Pair {
                found: self.arg(wanted.args, index.min(params_b - 1)),
                wanted: self.arg(found.args, index.min(params_a - 1)),
                fit,
            });
        }
        Ok(())
    }
}
