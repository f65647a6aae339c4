//! The tokens of a definition: what they match, the groups they are in, what their holes hold.

use super::NameChecker;
use super::unknown::Missing;
use crate::definition::model::{Form, Holds, Holes, Name, ORDINARY, TokenRule};
use crate::diagnostic::{codes, quote};

impl NameChecker<'_> {
    pub(super) fn tokens(&mut self) {
        for (index, rule) in self.definition.tokens.iter().enumerate() {
            if rule.pattern.matches_empty() {
                let message = format!("{} matches the empty text", quote(&rule.name.text));
                self.error(codes::DEFINITION_PATTERN, message, &rule.name)
                    .remedies
                    .push("a token has one character at least: use `+` where `*` stands, or leave out a `?`".into());
            }
            if let Some(holes) = &rule.holes {
                self.holes(rule, holes);
            }
            self.group(rule);
            let earlier = self.definition.tokens[..index]
                .iter()
                .find(|other| other.name.text == rule.name.text);
            if let Some(earlier) = earlier {
                self.twice("token", &rule.name, &earlier.name);
            }
        }
    }

    /// The groups that a token names are there, and texts come to its own.
    fn group(&mut self, rule: &TokenRule) {
        let definition = self.definition;
        let rules = || definition.tokens.iter();
        if let Some(entered) = &rule.turn.enters
            && entered.text != ORDINARY
            && !rules().any(|other| other.group.as_ref().is_some_and(|g| g.text == entered.text))
        {
            let groups = rules().filter_map(|other| other.group.as_ref());
            let mut groups: Vec<&str> = groups.map(|group| group.text.as_str()).collect();
            groups.push(ORDINARY);
            self.unknown(Missing::Group, entered, &groups);
        }
        let Some(group) = &rule.group else {
            return;
        };
        let is_it = |name: &Option<Name>| name.as_ref().is_some_and(|n| n.text == group.text);
        let is_head = rules()
            .find(|r| is_it(&r.group))
            .is_some_and(|r| r.name == rule.name);
        let is_told = definition.unread.contains(&group.text);
        if is_head
            && !is_told
            && !is_it(&definition.first_group)
            && !rules().any(|r| is_it(&r.turn.enters))
        {
            let message = format!("no token enters the group {}", quote(&group.text));
            let error = self.error(codes::DEFINITION_NAME, message, group);
            error.remedies.push(format!(
                "write `enters {0}` at a token, or `tokens {0} first`",
                group.text
            ));
        }
        if rule.holes.is_some() {
            let message = "only ordinary tokens have holes".to_owned();
            self.error(codes::DEFINITION_PATTERN, message, &rule.name);
        }
        if definition.layout.is_some() {
            let message = "groups of tokens and `layout` do not go together".to_owned();
            self.error(codes::DEFINITION_PATTERN, message, group);
        }
    }

    fn holes(&mut self, rule: &TokenRule, holes: &Holes) {
        if rule.pattern.delimited().is_none() {
            let message = format!("{} cannot have holes", quote(&rule.name.text));
            self.error(codes::DEFINITION_PATTERN, message, &rule.name)
                .remedies
                .push("a token with holes is an opening text, something repeated with `*`, and a closing text: `'\"' [^\"]* '\"'`".into());
        }
        if rule.holds != Some(Holds::Text) {
            let message = format!(
                "{} has holes and does not hold a text",
                quote(&rule.name.text)
            );
            self.error(codes::DEFINITION_PATTERN, message, &rule.name)
                .remedies
                .push("write `holds text` before `holes`".into());
        }
        if !self.definition.has_sort(&holes.sort.text) {
            let sorts: Vec<&str> = self.definition.forms.iter().map(Form::sort_name).collect();
            self.unknown(Missing::Sort, &holes.sort, &sorts);
        }
        for text in [&holes.open, &holes.close] {
            if text.text.is_empty() {
                let message = "what begins or ends a hole cannot be empty".to_owned();
                self.error(codes::DEFINITION_PATTERN, message, text);
            }
        }
    }
}
