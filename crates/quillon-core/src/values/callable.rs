//! Functions of a program, outside of it.

use super::{Held, Param, Signature, Value};

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
        self.signature().takes(arguments)
    }

    /// How a host calls it: with all its arguments, none of them hidden.
    pub(crate) fn signature(&self) -> Signature<'_> {
        let params = self.params.iter().map(|name| Param {
            name,
            is_hidden: false,
        });
        Signature {
            name: self.name(),
            params: params.collect(),
            rest: self.takes_more,
        }
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
            Value::Function(function) => {
                let Signature { name, params, rest } = function.code().signature();
                Some(Function {
                    value: self.clone(),
                    name: name.map(str::to_owned),
                    params: params.iter().map(|param| param.name.to_owned()).collect(),
                    takes_more: rest,
                })
            }
            _ => None,
        })
    }
}
