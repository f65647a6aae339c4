//! `quillon arrange`: programs, definitions and case files with their lines and columns in order.

use std::io::Read;
use std::path::Path;
use std::sync::Arc;

use quillon_core::Reading;
use quillon_core::definition;
use quillon_core::diagnostic::{Diagnostic, plural};
use quillon_core::editing::{Indent, arranged_program};
use quillon_core::source::SourceText;
use quillon_render::plain::plain;
use serde_json::json;

use crate::args::{Arrange as Args, Common, Format};
use crate::atomic;
use crate::commands::new::unwritable;
use crate::exit::Exit;
use crate::files::{self, STANDARD_INPUT, is_notation};
use crate::languages::Languages;
use crate::output::{hand_over, print_json_list, print_lines, report};
use crate::render::style::{GOOD, HEADING, STRONG, paint};
use crate::render::{changes, screen};
use crate::stop::Stop;

/// What a text in UTF-8 may begin with.
const MARK: &[u8; 3] = b"\xef\xbb\xbf";

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let mut arranging = Arranging {
        args,
        common: args.common.clone(),
        languages: Languages::default(),
        indent: match args.indent.0 {
            Some(count) => Indent::of_blanks(usize::from(count)),
            None => Indent::of_tabs(),
        },
    };
    let stdin = Path::new("-");
    if args.files.iter().any(|file| file == stdin) {
        return arranging.standard_input();
    }
    let paths = files::arrangeable(&args.files, args.common.language.as_deref())?;
    let mut files = Vec::new();
    for path in &paths {
        let source = files::read(path)?;
        let arranged = arranging.arranged(path, &source)?;
        files.push(File {
            path,
            source,
            arranged,
        });
    }
    arranging.tell(&files)
}

/// A file with what becomes of it, or what is wrong with it.
struct File<'p> {
    path: &'p Path,
    source: Arc<SourceText>,
    arranged: Result<String, Vec<Diagnostic>>,
}

impl File<'_> {
    /// What becomes of it, if that is something else.
    fn other(&self) -> Option<&String> {
        let arranged = self.arranged.as_ref().ok();
        arranged.filter(|text| text.as_str() != self.source.text())
    }

    /// Puts what becomes of it in its place, behind the mark that it may begin with.
    fn write(&self) -> Result<(), Stop> {
        let Some(text) = self.other() else {
            return Ok(());
        };
        let mut begins = [0; MARK.len()];
        let read = std::fs::File::open(self.path).and_then(|mut file| file.read_exact(&mut begins));
        let has_mark = read.is_ok() && begins == *MARK;
        let mark: &[u8] = if has_mark { MARK } else { &[] };
        let bytes = [mark, text.as_bytes()].concat();
        atomic::write(self.path, &bytes).map_err(|error| unwritable(self.path, error))
    }
}

struct Arranging<'a> {
    args: &'a Args,
    common: Common,
    languages: Languages,
    indent: Indent,
}

impl Arranging<'_> {
    /// What becomes of a text, which is told by the name of its file.
    fn arranged(
        &mut self,
        path: &Path,
        source: &Arc<SourceText>,
    ) -> Result<Result<String, Vec<Diagnostic>>, Stop> {
        if is_notation(path) {
            return Ok(definition::arranged(source).map_err(|problem| vec![*problem]));
        }
        let language = self.languages.of_program(&self.common, path)?.language;
        Ok(
            arranged_program(&language, source, &self.indent).map_err(|_| {
                let read = language.tree(source, Reading::Program);
                read.diagnostics
            }),
        )
    }

    fn standard_input(&mut self) -> Result<Exit, Stop> {
        let stdin = Path::new("-");
        let name = self.args.named.clone();
        let source = files::read(stdin)?;
        let arranged = match &name {
            Some(name) => {
                let source = SourceText::new(name.display().to_string(), source.text());
                self.named_input(name, &source)?
            }
            None => self.arranged(stdin, &source)?,
        };
        let path = name.as_deref().unwrap_or(stdin);
        let file = File {
            path,
            source,
            arranged,
        };
        if self.args.check || self.args.diff {
            return self.tell(&[file]);
        }
        match &file.arranged {
            Ok(text) => {
                hand_over(text)?;
                Ok(Exit::Done)
            }
            Err(problems) => {
                report(problems, Format::Text);
                Ok(Exit::Failed)
            }
        }
    }

    /// What becomes of standard input that is of a file, which need not be there.
    fn named_input(
        &mut self,
        name: &Path,
        source: &Arc<SourceText>,
    ) -> Result<Result<String, Vec<Diagnostic>>, Stop> {
        if self.common.language.is_none() && !is_notation(name) {
            self.common.language = Some(files::definition_reading(name)?);
        }
        self.arranged(name, source)
    }

    /// Writes what has changed, or shows it, and says what is wrong.
    fn tell(&self, files: &[File<'_>]) -> Result<Exit, Stop> {
        for file in files {
            if let Err(problems) = file.arranged.as_ref() {
                if files.len() > 1 {
                    let name = format!("── {}", named(file.path));
                    screen::tell_line(paint(HEADING, name));
                }
                report(problems, Format::Text);
            }
        }
        let is_asked = self.args.check || self.args.diff;
        let changed: Vec<&File<'_>> = files.iter().filter(|file| file.other().is_some()).collect();
        for file in changed.iter().filter(|_| !is_asked) {
            file.write()?;
        }
        if self.common.format == Format::Json {
            print_json_list(&as_json(files))?;
        } else {
            print_lines(&self.told(files, &changed))?;
        }
        let is_wrong = files.iter().any(|file| file.arranged.is_err());
        let is_out_of_order = is_asked && !changed.is_empty();
        Ok(if is_wrong || is_out_of_order {
            Exit::Failed
        } else {
            Exit::Done
        })
    }

    fn told(&self, files: &[File<'_>], changed: &[&File<'_>]) -> Vec<String> {
        let mut lines = Vec::new();
        let is_asked = self.args.check || self.args.diff;
        for file in changed {
            let name = named(file.path);
            match file.other() {
                Some(text) if self.args.diff => {
                    lines.extend(changes::lines(&name, file.source.text(), text));
                }
                _ if is_asked => lines.push(format!("{} is not in order", paint(STRONG, name))),
                _ => lines.push(format!("{} is in order now", paint(STRONG, name))),
            }
        }
        let right = files.iter().filter(|file| file.arranged.is_ok()).count() - changed.len();
        if !self.args.diff && right > 0 {
            let verb = if right == 1 { "is" } else { "are" };
            let more = if is_asked {
                "in order"
            } else {
                "in order already"
            };
            let text = format!("{} {verb} {more}", plural(right, "file"));
            lines.push(paint(GOOD, text));
        }
        lines
    }
}

fn as_json(files: &[File<'_>]) -> Vec<serde_json::Value> {
    let each = files.iter().map(|file| {
        let (state, problems) = match &file.arranged {
            Err(problems) => ("wrong", problems.as_slice()),
            Ok(_) if file.other().is_some() => ("changed", &[][..]),
            Ok(_) => ("in order", &[][..]),
        };
        json!({ "file": named(file.path), "state": state, "diagnostics": problems })
    });
    each.collect()
}

/// The name of a file in a list, where it stands by itself.
fn named(path: &Path) -> String {
    if path == Path::new("-") {
        return STANDARD_INPUT.to_owned();
    }
    plain(&path.display().to_string()).into_owned()
}
