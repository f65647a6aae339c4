//! Functions of a program, outside of it.

use super::{Held, Value};

/// A function that a run has given, or that a name is bound to: what can be called.
#[derive(Clone, Debug)]
pub struct Function {
    value: Held,
    name: Option<String>,
    params: Vec<String>,
    takes_more: bool,
}

impl Function {
    /// Its name, if the program gave it one.
    pub fn name(&self) -> Option<&str> {
        self.name.as_deref()
    }

    /// The names of its parameters, in order.
    pub fn params(&self) -> &[String] {
        &self.params
    }

    /// Whether its last parameter takes all arguments that are left.
    pub fn takes_more(&self) -> bool {
        self.takes_more
    }

    /// Whether it can be called with so many arguments.
    pub fn takes(&self, arguments: usize) -> bool {
        let params = self.params.len();
        arguments == params || self.takes_more && arguments + 1 >= params
    }

    /// As a value.
    pub fn value(&self) -> &Held {
        &self.value
    }
}

impl From<Function> for Held {
    fn from(function: Function) -> Held {
        function.value
    }
}

impl From<&Function> for Held {
    fn from(function: &Function) -> Held {
        function.value.clone()
    }
}

impl Held {
    /// The function, if it is one.
    pub fn as_function(&self) -> Option<Function> {
        self.with(|value| match value {
            Value::Function(function) => Some(Function {
                value: self.clone(),
                name: function.code.name().map(str::to_owned),
                params: function
                    .code
                    .params()
                    .into_iter()
                    .map(str::to_owned)
                    .collect(),
                takes_more: function.code.rest(),
            }),
            _ => None,
        })
    }
}
