//! What templates mention and set, and what gets a name: looked up before they are filled in.

use std::rc::Rc;

use super::core::{Core, CoreKind as K};
use crate::definition::template::Wanted;
use crate::definition::{Template, TemplateKind as T};

/// A function that is bound to a name at once gets that name.
pub(super) fn name_function(core: &mut Core, name: Option<Rc<str>>) {
    match &mut core.kind {
        K::Function(function) => {
            if let Some(function) = Rc::get_mut(function)
                && function.name.is_none()
            {
                function.name = name;
            }
        }
        K::Fresh(_, inner) => {
            if let Some(inner) = Rc::get_mut(inner) {
                name_function(inner, name);
            }
        }
        K::Sequence(parts) => {
            if let Some(last) = parts.last_mut().and_then(Rc::get_mut) {
                name_function(last, name);
            }
        }
        _ => {}
    }
}

/// Whether a template sets a variable: one of a name, or any.
pub(super) fn sets_something(template: &Template, name: Option<&str>) -> bool {
    if let T::Set(set, _) = &template.kind
        && name.is_none_or(|name| set.alone().is_some_and(|set| set.text == name))
    {
        return true;
    }
    let mut found = false;
    template.each_part(&mut |part| found |= sets_something(part, name));
    found
}

/// Whether a template uses a name in any way.
pub(super) fn mentions(template: &Template, name: &str) -> bool {
    let own = match &template.kind {
        T::Name(own) => own == name,
        T::Member(own, _) | T::Fits(_, Wanted::Part(own, _), _) => own.text == name,
        T::Set(own, _) => own.field.text == name,
        _ => false,
    };
    let mut found = own;
    template.each_part(&mut |part| found |= mentions(part, name));
    found
}
