//! Helpers of the meaning notation, and which of them come to use themselves.

use serde::{Deserialize, Serialize};

use super::{Definition, Name, Template, TemplateKind};

/// `define NAME(params) = …`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Helper {
    /// Its name.
    pub name: Name,
    /// Its parameters.
    pub params: Vec<Name>,
    /// What it stands for.
    pub body: Template,
    /// Whether it comes to use itself, directly or through others. Such a helper cannot be
    /// filled in where it is used: it is a function of its own.
    pub recursive: bool,
}

impl Definition {
    /// The helper of a name.
    pub fn helper(&self, name: &str) -> Option<&Helper> {
        self.helpers.iter().find(|helper| helper.name.text == name)
    }

    /// The helpers that are functions of their own, in the order of the definition.
    pub(crate) fn recursive_helpers(&self) -> impl Iterator<Item = &Helper> {
        self.helpers.iter().filter(|helper| helper.recursive)
    }

    /// The number that a recursive helper has among all that is built in: what the
    /// definition `provides` comes first.
    pub(crate) fn recursive_index(&self, name: &str) -> Option<u32> {
        let mut helpers = self.recursive_helpers();
        let index = helpers.position(|helper| helper.name.text == name)?;
        Some((self.provides.len() + index) as u32)
    }

    /// Marks the helpers that come to use themselves.
    pub(in crate::definition) fn find_recursive_helpers(&mut self) {
        let uses: Vec<Vec<usize>> = self
            .helpers
            .iter()
            .map(|helper| {
                let mut names = Vec::new();
                applied(&helper.body, &mut names);
                let all = self.helpers.iter().enumerate();
                let used = all.filter(|(_, other)| names.contains(&other.name.text.as_str()));
                used.map(|(index, _)| index).collect()
            })
            .collect();
        for index in 0..self.helpers.len() {
            self.helpers[index].recursive = reaches_itself(&uses, index);
        }
    }
}

fn applied<'a>(template: &'a Template, out: &mut Vec<&'a str>) {
    if let TemplateKind::Apply(name, _) = &template.kind {
        out.push(&name.text);
    }
    template.each_part(&mut |part| applied(part, out));
}

fn reaches_itself(uses: &[Vec<usize>], start: usize) -> bool {
    let mut seen = vec![false; uses.len()];
    let mut work = vec![start];
    while let Some(current) = work.pop() {
        for &used in &uses[current] {
            if used == start {
                return true;
            }
            if !std::mem::replace(&mut seen[used], true) {
                work.push(used);
            }
        }
    }
    false
}
