//! A package for Emacs: a mode with colours and comments, and the start of the server and of the debugger.

use quillon_core::editing::{Dialect, Looks, Role, escaped, one_of};

use super::{About, File, STEP, notation};

pub fn files(all: &[About<'_>]) -> Vec<File> {
    let modes = all
        .iter()
        .map(|about| File::new(format!("{}-mode.el", about.id), mode(about)));
    let readme = all
        .first()
        .map(|about| File::new("README.md", readme(about, all)));
    modes.chain([notation::for_emacs()]).chain(readme).collect()
}

/// A text as Emacs writes it.
fn quoted(text: &str) -> String {
    let escaped = text
        .replace('\\', "\\\\")
        .replace('"', "\\\"")
        .replace('\n', "\\n");
    format!("\"{escaped}\"")
}

fn mode(about: &About<'_>) -> String {
    let (id, name) = (&about.id, &about.name);
    let extensions: Vec<String> = about
        .extensions
        .iter()
        .map(|one| {
            format!(
                "(add-to-list 'auto-mode-alist '({} . {id}-mode))",
                quoted(&format!("{}\\'", escaped(one, Dialect::Emacs)))
            )
        })
        .collect();
    let comment = match (&about.line_comment, &about.block_comment) {
        (Some(line), _) => format!(
            "(setq-local comment-start {}) (setq-local comment-end \"\")",
            quoted(&format!("{line} "))
        ),
        (None, Some((open, close))) => format!(
            "(setq-local comment-start {}) (setq-local comment-end {})",
            quoted(&format!("{open} ")),
            quoted(&format!(" {close}"))
        ),
        (None, None) => "(setq-local comment-start \"\")".to_owned(),
    };
    format!(
        ";;; {id}-mode.el --- The language {name}  -*- lexical-binding: t; -*-

;;; Code:

(defvar {id}-font-lock-keywords
  '(
{colours}    )
  \"Colours of the tokens of {name}.\")

(define-derived-mode {id}-mode prog-mode {shown}
  \"A mode for programs in {name}.\"
  {comment}
  (setq-local indent-tabs-mode nil tab-width {STEP})
  (setq-local font-lock-multiline t)
  (setq-local font-lock-defaults '({id}-font-lock-keywords t)))

{extensions}

(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '({id}-mode . (\"quillon\" \"editor\"))))

;; Where a client for debug adapters is installed, it walks through runs.
(with-eval-after-load 'dap-mode
  (dap-register-debug-provider
   \"quillon\"
   (lambda (conf)
     (dap--put-if-absent conf :dap-server-path '(\"quillon\" \"debugger\"))
     (dap--put-if-absent conf :program (buffer-file-name))
     conf))
  (dap-register-debug-template
   {walk}
   (list :type \"quillon\" :request \"launch\" :name {walk}))
  (dap-register-debug-template
   {meanings}
   (list :type \"quillon\" :request \"launch\" :name {meanings} :meanings t)))

(provide '{id}-mode)
;;; {id}-mode.el ends here
",
        colours = colours(about),
        shown = quoted(name),
        extensions = extensions.join("\n"),
        walk = quoted(&format!("Walk through a program in {name}")),
        meanings = quoted(&format!(
            "Walk through a program in {name} and its meanings"
        )),
    )
}

fn colours(about: &About<'_>) -> String {
    let mut out = String::new();
    let sign = |text: &String| escaped(text, Dialect::Emacs);
    for rule in about.rules(Dialect::Emacs) {
        let face = match rule.role {
            Some(Role::Comment) => "font-lock-comment-face",
            Some(Role::Text) => "font-lock-string-face",
            Some(Role::Number) => "font-lock-constant-face",
            Some(Role::Keyword) => "font-lock-keyword-face",
            Some(Role::Operator) => "font-lock-builtin-face",
            Some(Role::Kind | Role::Name { .. }) | None => continue,
        };
        let regular = match &rule.looks {
            Looks::Words(words) => {
                format!("\\_<\\(?:{}\\)\\_>", one_of(words, Dialect::Emacs))
            }
            Looks::Signs(signs) => one_of(signs, Dialect::Emacs),
            Looks::Fits(regular) => regular.clone(),
            Looks::Line(open) => format!("{}.*$", sign(open)),
            Looks::Between {
                open,
                close,
                escapes,
                ..
            } => {
                let inner = if *escapes {
                    "\\(?:\\\\.\\|[^\\\\]\\)*?"
                } else {
                    "\\(?:.\\|\n\\)*?"
                };
                format!("{}{inner}{}", sign(open), sign(close))
            }
        };
        out += &format!("    ({} . {face})\n", quoted(&regular));
    }
    out
}

fn readme(main: &About<'_>, all: &[About<'_>]) -> String {
    let file = |about: &About<'_>| format!("`{}-mode.el`", about.id);
    let required = |about: &About<'_>| format!("`(require '{}-mode)`", about.id);
    let listed = |shown: &dyn Fn(&About<'_>) -> String| {
        let each: Vec<String> = all.iter().map(shown).collect();
        each.join(", ")
    };
    format!(
        "# {} for Emacs

Copy {}, `quillon-mode.el` to a folder of `load-path` and write {}, `(require 'quillon-mode)` into your settings.
`M-x eglot` starts `quillon editor`; `quillon` has to be on the path. Where `dap-mode` is installed, `M-x dap-debug` walks through the program.
",
        main.name,
        listed(&file),
        listed(&required),
    )
}
