//! Values as text.

use super::{Closure, Heap, Key, Look, Map, Ref, Text, Value, exact_integer};
use crate::definition::FunctionPart;
use crate::definition::template::ValueKind;
use crate::diagnostic::escape;
use crate::metering::Stopped;
use crate::source::floor;

/// Deeper lists and maps are shown as an ellipsis.
const DEEPEST: usize = 60;

/// So many bytes of a value a person gets to see who looks at it from outside of a run.
const LONGEST_SEEN: usize = 1 << 24;

/// So many bytes of a value are in a message.
const LONGEST_TOLD: usize = 4096;

/// The work of showing something small, in units of the meter.
const EACH: usize = 16;

/// A value as a person reads it: a text stays as it is.
pub(crate) fn shown(value: &Value) -> Result<Ref<Text>, Stopped> {
    match value {
        Value::Text(text) => Ok(*text),
        _ => written(value),
    }
}

/// A value as one would write it: texts in quotes, also inside lists and maps.
pub(crate) fn written(value: &Value) -> Result<Ref<Text>, Stopped> {
    // What most programs show.
    if let Value::Integer(n) = value {
        return Ok(Text::of_integer(*n));
    }
    let look = Heap::with(Heap::look);
    let mut out = Writer::metered(&look);
    out.value(value)
        .map(|()| Text::made(out.text))
        .map_err(|full| match full {
            Full::Cut => Stopped::Size,
            Full::Stopped(stopped) => stopped,
        })
}

/// A value with this look as a person reads it who looks at it from outside of a run; where it is
/// very large, the beginning of it.
pub(crate) fn seen(value: &Value, look: &Look) -> String {
    match value {
        Value::Text(text) => text.to_string(),
        _ => seen_written(value, look),
    }
}

/// The same as one would write it.
pub(crate) fn seen_written(value: &Value, look: &Look) -> String {
    beginning(value, look, LONGEST_SEEN)
}

/// A value for a message, as a person reads it; where it is long, the beginning of it.
pub(crate) fn told(value: &Value) -> String {
    match value {
        Value::Text(text) => {
            let look = Look::usual();
            let mut out = Writer::cut(&look, LONGEST_TOLD);
            let _ = out.push(text);
            out.text
        }
        _ => told_written(value),
    }
}

/// A value for a message or a trace, as one would write it; where it is long, the beginning.
pub(crate) fn told_written(value: &Value) -> String {
    beginning(value, &Heap::with(Heap::look), LONGEST_TOLD)
}

/// As much of a value with this look, as one would write it, as fits into so many bytes.
pub(crate) fn beginning(value: &Value, look: &Look, most: usize) -> String {
    let mut out = Writer::cut(look, most);
    // What does not fit is left out, and an ellipsis is in its place.
    let _ = out.value(value);
    out.text
}

/// `an integer: 3`, `nothing`; long values are cut.
pub(crate) fn described(value: &Value) -> String {
    described_as(value, &Heap::with(Heap::look))
}

/// The same with this look.
pub(crate) fn described_as(value: &Value, look: &Look) -> String {
    const LONGEST: usize = 40;
    let kind = value.kind().described();
    if value.kind() == ValueKind::Nothing {
        return look.nothing.clone();
    }
    // Enough for so many characters, whatever they are.
    let written = beginning(value, look, 4 * LONGEST + 4);
    let mut shown: String = written.chars().take(LONGEST).collect();
    if shown.len() < written.len() {
        shown.push('…');
    }
    format!("{kind}: {shown}")
}

/// A key for a message; a long one is cut.
pub(crate) fn described_key(key: &Key) -> String {
    beginning(&key.value(), &Heap::with(Heap::look), 200)
}

/// A number such that it reads back the same, and is seen not to be an integer.
pub(crate) fn number(n: f64) -> String {
    if n.is_nan() {
        "not a number".to_owned()
    } else if n.is_infinite() {
        if n > 0.0 { "infinity" } else { "-infinity" }.to_owned()
    } else {
        format!("{n:?}")
    }
}

/// Why nothing more can be written.
enum Full {
    /// There is as much as is wanted.
    Cut,
    /// The run may not go on.
    Stopped(Stopped),
}

impl From<Stopped> for Full {
    fn from(stopped: Stopped) -> Full {
        Full::Stopped(stopped)
    }
}

/// Writes values, as far as there is room.
struct Writer<'a> {
    text: String,
    look: &'a Look,
    most: usize,
    /// Whether room is asked for and work counted.
    is_metered: bool,
    /// The addresses of the lists, maps and functions around, to find cycles.
    inside: Vec<usize>,
}

impl<'a> Writer<'a> {
    fn metered(look: &'a Look) -> Writer<'a> {
        Writer {
            text: String::new(),
            look,
            most: super::LARGEST,
            is_metered: true,
            inside: Vec::new(),
        }
    }

    fn cut(look: &'a Look, most: usize) -> Writer<'a> {
        Writer {
            text: String::new(),
            look,
            most,
            is_metered: false,
            inside: Vec::new(),
        }
    }

    fn push(&mut self, text: &str) -> Result<(), Full> {
        let length = self.text.len() + text.len();
        if length > self.most {
            if !self.is_metered {
                let room = self.most.saturating_sub(self.text.len());
                self.text.push_str(&text[..floor(text, room)]);
                self.text.push('…');
            }
            return Err(Full::Cut);
        }
        if self.is_metered {
            super::spend(text.len() + EACH)?;
            if length > self.text.capacity() {
                let room = length.max(2 * self.text.capacity()).max(32);
                super::ask(room)?;
                self.text.reserve_exact(room - self.text.len());
            }
        }
        self.text.push_str(text);
        Ok(())
    }

    /// A text in quotes, piece by piece, so that a long one is not there twice.
    fn quoted(&mut self, text: &str) -> Result<(), Full> {
        const PIECE: usize = 4096;
        let look = self.look;
        let [open, close] = &look.quotes;
        // A text without quotes stands as it is.
        let mut quote = close.chars();
        let quote = match (quote.next(), quote.next()) {
            (Some(one), None) => Some(one),
            (None, _) => return self.push(text),
            (Some(_), Some(_)) => None,
        };
        self.push(open)?;
        let mut rest = text;
        let mut escaped = String::new();
        while !rest.is_empty() {
            let (piece, after) = rest.split_at(floor(rest, PIECE));
            escaped.clear();
            escape(&mut escaped, piece, quote);
            self.push(&escaped)?;
            rest = after;
        }
        self.push(close)
    }

    fn value(&mut self, value: &Value) -> Result<(), Full> {
        let look = self.look;
        match value {
            Value::Unset | Value::Nothing | Value::Variable(_) | Value::Inner(_) => {
                self.push(&look.nothing)
            }
            Value::Truth(truth) => self.push(&look.truths[usize::from(!truth)]),
            Value::Integer(n) => self.push(&n.to_string()),
            Value::Number(n) => match exact_integer(*n) {
                Some(n) if look.is_one_number => self.push(&n.to_string()),
                Some(_) | None => self.push(&number(*n)),
            },
            Value::Text(text) => self.quoted(text),
            Value::List(list) => {
                let [open, between, close] = &look.items;
                self.within(list.address(), open, close, |out| {
                    for (index, item) in list.items.iter().enumerate() {
                        if index > 0 {
                            out.push(between)?;
                        }
                        out.value(&item)?;
                    }
                    Ok(())
                })
            }
            Value::Map(map) => self.map(*map),
            Value::Function(closure) => self.function(*closure),
            Value::Coroutine(coroutine) => self.push(match &look.coroutine {
                Some(text) => text,
                None if coroutine.has_ended() => "coroutine at its end",
                None => "coroutine",
            }),
        }
    }

    fn map(&mut self, map: Ref<Map>) -> Result<(), Full> {
        let look = self.look;
        let entries = &look.entries;
        self.within(map.address(), &entries.open, &entries.close, |out| {
            let mut before = "";
            map.each(|key, item| {
                out.push(before)?;
                before = &entries.between;
                match key.value() {
                    Value::Text(text) if entries.is_plain && reads_as_name(&text) => {
                        out.push(&text)?;
                    }
                    key => out.value(&key)?,
                }
                out.push(&entries.to)?;
                out.value(&item)
            })
        })
    }

    /// Something between brackets, unless it is inside itself or too deep.
    fn within(
        &mut self,
        address: usize,
        open: &str,
        close: &str,
        content: impl FnOnce(&mut Writer<'a>) -> Result<(), Full>,
    ) -> Result<(), Full> {
        self.push(open)?;
        if self.is_inside(address) {
            self.push("…")?;
        } else {
            self.inside.push(address);
            content(self)?;
            self.inside.pop();
        }
        self.push(close)
    }

    fn is_inside(&self, address: usize) -> bool {
        self.inside.len() >= DEEPEST || self.inside.contains(&address)
    }

    /// A function with its name and its parameters, and what it has captured. Functions that
    /// are captured are just named: often one of them is the function itself.
    fn function(&mut self, closure: Ref<Closure>) -> Result<(), Full> {
        let look = self.look;
        if let Some(parts) = &look.function {
            return self.function_as(closure, parts);
        }
        let code = closure.code();
        let signature = code.signature();
        let params = signature.names(false).join(", ");
        let name = signature.name.map_or(String::new(), |n| format!(" {n}"));
        let rest = if signature.rest { "..." } else { "" };
        self.push(&format!("function{name}({params}{rest})"))?;
        if self.is_inside(closure.address()) {
            return Ok(());
        }
        self.inside.push(closure.address());
        let mut before = " with ";
        for (index, capture) in code.captures().into_iter().enumerate() {
            let Some(value) = closure.holds(index) else {
                continue;
            };
            self.push(&format!("{before}{capture} = "))?;
            before = ", ";
            match value {
                Value::Function(_) => self.push("function")?,
                other => self.value(&other)?,
            }
        }
        self.inside.pop();
        Ok(())
    }

    /// A function as the definition has it look.
    fn function_as(&mut self, closure: Ref<Closure>, parts: &[FunctionPart]) -> Result<(), Full> {
        let signature = closure.code().signature();
        let mut rest = parts.iter().peekable();
        while let Some(part) = rest.next() {
            match part {
                // Nothing stands between a word and the name of a function without one.
                FunctionPart::Text(text)
                    if signature.name.is_none()
                        && matches!(rest.peek(), Some(FunctionPart::Name)) =>
                {
                    self.push(text.trim_end())?;
                }
                FunctionPart::Text(text) => self.push(text)?,
                FunctionPart::Name => self.push(signature.name.unwrap_or_default())?,
                FunctionPart::Params(between) => {
                    self.push(&signature.names(false).join(between))?;
                }
            }
        }
        Ok(())
    }
}

/// Whether a key can stand without quotes.
fn reads_as_name(text: &str) -> bool {
    let mut chars = text.chars();
    let is_letter = |c: char| c.is_alphabetic() || c == '_';
    chars.next().is_some_and(is_letter) && chars.all(|c| is_letter(c) || c.is_numeric())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_read_back_the_same() {
        assert_eq!(number(3.0), "3.0");
        assert_eq!(number(0.1 + 0.2), "0.30000000000000004");
        assert_eq!(number(1e300), "1e300");
    }

    #[test]
    fn cycles_are_cut() {
        let value = Value::list(Vec::new());
        if let Value::List(list) = value {
            list.reserve_one().unwrap();
            list.items.push(value);
        }
        assert_eq!(seen_written(&value, &Look::usual()), "[[…]]");
    }

    #[test]
    fn what_is_shared_a_million_times_is_cut_where_a_person_stops_reading() {
        let mut value = Value::list(vec![Value::Integer(1)]);
        for _ in 0..50 {
            value = Value::list(vec![value, value]);
        }
        assert_eq!(told(&value).len(), LONGEST_TOLD + '…'.len_utf8());
        assert_eq!(
            seen_written(&value, &Look::usual()).len(),
            LONGEST_SEEN + '…'.len_utf8()
        );
        assert!(described(&value).starts_with("a list: [[[["));
    }
}
