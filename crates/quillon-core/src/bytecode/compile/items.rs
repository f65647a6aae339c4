//! The code for lists whose items are in registers (see `lists`): what looks at an item finds the register, and the
//! list itself is made where it is wanted as such.

use super::emit::UNPLACED;
use super::lists::MOST_GIVEN;
use super::looking::{asks_for_more, place_of, variable_read};
use super::{Builder, Home, Register, Want};
use crate::bytecode::instruction::{Counts, Instruction};
use crate::definition::Literal;
use crate::meaning::{Core, CoreKind as K, CorePart};
use crate::operations::Operation as O;

/// The items of a list that are left, in registers one after the other.
#[derive(Clone, Copy)]
pub(super) struct Items {
    first: Register,
    count: usize,
}

impl Items {
    fn at(self, index: usize) -> Option<Register> {
        self.registers().nth(index)
    }

    /// The register of each. In a function that is too large for the machine, they end somewhere.
    fn registers(self) -> impl Iterator<Item = Register> {
        (0..self.count).map(move |index| self.first.saturating_add(index as u16))
    }
}

/// The arguments of a call that end in a list that need not be made.
pub(super) struct ListedArguments<'c> {
    /// What comes before the list.
    pub before: &'c [CorePart],
    end: Listed<'c>,
}

enum Listed<'c> {
    /// It is made just for the call.
    New(&'c [CorePart]),
    /// Its items are in registers.
    There(Items),
}

/// So many arguments before the list the instruction can count.
const MOST_BEFORE: usize = 7;

impl Builder<'_, '_> {
    /// The items left of a list that is read here, if the function makes it and they are in registers.
    pub(super) fn items_read<T>(&mut self, reader: &T, slot: u32) -> Option<Items> {
        let taken = self.facts_of_lists().taken(reader)?;
        match self.home(slot) {
            Home::Items(first, count) => Some(Items {
                first: first.saturating_add(taken.min(count) as u16),
                count: count.saturating_sub(taken),
            }),
            Home::None | Home::Register(_) | Home::Literal(_) | Home::Same(..) => None,
        }
    }

    /// The same for a piece of Core that may be read.
    pub(super) fn items(&mut self, core: &Core) -> Option<Items> {
        let slot = variable_read(core)?;
        self.items_read(core, slot)
    }

    /// How many items there are in a list whose items are in registers.
    pub(super) fn count_of_items(&mut self, args: &[CorePart]) -> Option<Literal> {
        let count = self.items(args.first()?)?.count;
        Some(Literal::Integer(count as i64))
    }

    /// Where an item is that is asked for, if it is in a register.
    pub(super) fn item_in_place(&mut self, core: &Core) -> Option<Register> {
        match &core.kind {
            K::Apply(O::ListTakeFirst, args) => self.items(args.first()?)?.at(0),
            K::Apply(operation @ (O::ListAt | O::ListItem), args) => {
                let items = self.items(args.first()?)?;
                items.at(place_of(*operation, args.get(1)?)?)
            }
            _ => None,
        }
    }

    /// Makes a list of the items left.
    pub(super) fn list_of(&mut self, items: Items, into: Register, site: u32) {
        self.emit(
            Instruction::List(into, items.first, items.count as u16),
            site,
        );
    }

    /// The registers of the items that a loop goes over, if it is written out for each of them.
    pub(super) fn items_of_loop(&mut self, list: &Core) -> Option<Vec<Register>> {
        if !self.facts_of_lists().is_written_out(list) {
            return None;
        }
        Some(self.items(list)?.registers().collect())
    }

    /// The register of a variable that is just read and always holds the same.
    fn lasting_register(&mut self, core: &Core) -> Option<Register> {
        if !self.is_at_hand(core) || self.folded(core, 0).is_some() {
            return None;
        }
        let slot = variable_read(self.in_place(core))?;
        let facts = self.facts(slot);
        let is_set_once = facts.writes == 1 || facts.is_set_by_turn();
        let lasts = is_set_once || facts.alias.is_some();
        lasts.then(|| self.register_of(slot)).flatten()
    }

    /// Puts items where a list of the function has them; whether it has.
    pub(super) fn write_items(&mut self, slot: u32, value: &Core) -> bool {
        let (K::List(items), Home::Items(first, count)) = (&value.kind, self.home(slot)) else {
            return false;
        };
        // A variable that stays what it is need not be copied.
        if let [only] = &items[..]
            && let Some(own) = self.lasting_register(only)
        {
            self.scope().homes[slot as usize] = Home::Items(own, 1);
            return true;
        }
        let registers = Items { first, count }.registers();
        for (item, register) in items.iter().zip(registers) {
            let top = self.top;
            self.generate(item, Want::Into(register));
            self.top = top;
        }
        true
    }

    /// An operation on the list that was given to the function, which may be there as its items; whether it is
    /// one.
    pub(super) fn on_given(
        &mut self,
        core: &Core,
        operation: O,
        args: &[CorePart],
        into: Register,
    ) -> bool {
        let Some((given, taken)) = args.first().and_then(|list| self.given(list)) else {
            return false;
        };
        let operands: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let site = self.site(core, &operands);
        let at = args.get(1).and_then(|at| place_of(operation, at));
        match (operation, at) {
            (O::ListLength, None) => {
                self.emit(Instruction::GivenLength(into, given, taken), site);
            }
            (O::ListTakeFirst, None) => {
                self.emit(Instruction::GivenTake(into, given, taken), site);
            }
            (O::ListAt | O::ListItem, Some(at)) => {
                let base = super::operations::base(operation);
                let at = at as u16 + u16::from(base);
                self.emit(Instruction::GivenItem(base, into, given, at), site);
            }
            _ => return false,
        }
        true
    }

    /// The instruction that takes an item of the list that was given, if it has come in a register; without where
    /// it goes. It is for a choice between that and something else, as a test says.
    pub(super) fn tried_given(&mut self, [test, yes, no]: [&Core; 3]) -> Option<Instruction> {
        let (asked, has_more) = asks_for_more(test)?;
        let K::Apply(O::ListTakeFirst, args) = &(if has_more { yes } else { no }).kind else {
            return None;
        };
        let (given, taken) = self.given(asked)?;
        let is_same = self.given(args.first()?) == Some((given, taken));
        is_same.then(|| Instruction::TryGiven(0, given, taken))
    }

    /// The register of the list that was given to the function, and how many of its items have been taken, if it is
    /// what is read.
    fn given(&mut self, list: &Core) -> Option<(Register, u16)> {
        // A function filled in has its arguments wherever they are.
        if self.scopes.len() > 1 || self.facts_of_lists().listed().is_none() {
            return None;
        }
        let slot = variable_read(list)?;
        let taken = self.facts_of_lists().taken(list)? as u16;
        let given = self.register_of(slot)?;
        let params = self.scopes[0].core.params.len();
        (usize::from(given) + 1 == params).then_some((given, taken))
    }

    /// The arguments of a call, if they end in a list that need not be made.
    pub(super) fn listed_arguments<'c>(
        &mut self,
        args: &'c [CorePart],
    ) -> Option<ListedArguments<'c>> {
        let (last, before) = args.split_last()?;
        if before.len() > MOST_BEFORE {
            return None;
        }
        let end = match &last.kind {
            K::List(items) if items.len() <= MOST_GIVEN => Listed::New(items),
            _ => Listed::There(self.items(last)?),
        };
        Some(ListedArguments { before, end })
    }

    /// Puts arguments that end in a list into the window of a call: its items come after two registers for the
    /// machine. The first register, and the numbers of arguments as the instruction has them.
    pub(super) fn listed_row(&mut self, arguments: &ListedArguments<'_>) -> (Register, u8) {
        let window = self.row(arguments.before);
        let [_, _] = [self.register(), self.register()];
        let count = match arguments.end {
            Listed::New(items) => {
                self.row(items);
                items.len()
            }
            Listed::There(items) => {
                for item in items.registers() {
                    let register = self.register();
                    self.emit(Instruction::Move(register, item), UNPLACED);
                }
                items.count
            }
        };
        let counts = Counts {
            before: arguments.before.len() as u8,
            items: count as u8,
        };
        (window, counts.field())
    }

    /// The items of an argument that is a list, where the function that is filled in only looks at them.
    pub(super) fn argument_items(&mut self, arg: &Core) -> Option<Home> {
        if let Some(items) = self.items(arg) {
            return Some(Home::Items(items.first, items.count));
        }
        match &arg.kind {
            K::List(items) if items.len() <= MOST_GIVEN => {
                Some(Home::Items(self.row(items), items.len()))
            }
            _ => None,
        }
    }
}
