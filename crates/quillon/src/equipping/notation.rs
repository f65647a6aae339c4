//! What the packages have for definitions and case files: they are the same for every language.

use quillon_core::editing::words_of_lines;
use serde_json::{Value, json};

use super::{File, STEP};

/// What editors call definitions and case files.
pub const ID: &str = "quillon";

/// The files of a package for Vim or Neovim.
pub fn for_vim(is_neovim: bool) -> Vec<File> {
    let detection = format!("autocmd BufRead,BufNewFile *.quillon,*.cases setfiletype {ID}\n");
    let mut files = vec![
        File::new(format!("ftdetect/{ID}.vim"), detection),
        File::new(format!("syntax/{ID}.vim"), vim_syntax()),
    ];
    if is_neovim {
        files.push(File::new(
            format!("ftplugin/{ID}.lua"),
            super::vim::neovim_start("-- %s"),
        ));
    } else {
        files.push(File::new(
            format!("ftplugin/{ID}.vim"),
            super::vim::vim_start(ID, "-- %s"),
        ));
    }
    files
}

fn vim_syntax() -> String {
    let [items, lines] = words_of_lines().map(|words| words.join("|"));
    format!(
        r#"if exists('b:current_syntax')
  finish
endif
syntax case match
syntax sync fromstart
syntax match {ID}Line "\v^\s+\zs%({lines})>"
syntax match {ID}Item "\v^%({items})>"
syntax match {ID}Program "\v`[^`]*`"
syntax match {ID}Program "\v^\s+\|.*$"
syntax match {ID}Class +\v\[%(\\.|[^]\\ ,])*\]+
syntax match {ID}Text +\v"%(\\.|[^"\\])*"+
syntax match {ID}Text +\v'%(\\.|[^'\\])*'+
syntax match {ID}Comment "--.*$"
highlight default link {ID}Item Statement
highlight default link {ID}Line Keyword
highlight default link {ID}Program Special
highlight default link {ID}Text String
highlight default link {ID}Class String
highlight default link {ID}Comment Comment
let b:current_syntax = '{ID}'
"#
    )
}

/// Colours in the JSON form of regular expressions.
pub fn colours() -> Value {
    let [items, lines] = words_of_lines().map(|words| words.join("|"));
    json!({
        "name": "Quillon",
        "scopeName": format!("source.{ID}"),
        "patterns": [
            { "name": format!("comment.line.{ID}"), "match": "--.*$" },
            { "name": format!("string.regexp.{ID}"), "match": r"\[(?:\\.|[^\]\\ ,])*\]" },
            { "name": format!("string.quoted.double.{ID}"), "match": r#""(?:\\.|[^"\\])*""# },
            { "name": format!("string.quoted.single.{ID}"), "match": r"'(?:\\.|[^'\\])*'" },
            { "name": format!("string.other.program.{ID}"), "match": "`[^`]*`" },
            { "name": format!("string.other.program.{ID}"), "match": r"^\s+\|.*$" },
            { "name": format!("keyword.control.{ID}"), "match": format!(r"^(?:{items})\b") },
            { "name": format!("keyword.other.{ID}"), "match": format!(r"^\s+(?:{lines})\b") },
        ],
    })
}

/// What an editor has to know of definitions.
pub fn configuration() -> Value {
    let pairs = [["(", ")"], ["[", "]"], ["{", "}"]];
    json!({
        "comments": { "lineComment": "--" },
        "brackets": pairs,
        "autoClosingPairs": pairs,
    })
}

/// A mode for Emacs.
pub fn for_emacs() -> File {
    let [items, lines] = words_of_lines().map(|words| words.join("\\\\|"));
    File::new(
        format!("{ID}-mode.el"),
        format!(
            r#";;; {ID}-mode.el --- Definitions of languages, and their cases  -*- lexical-binding: t; -*-

;;; Code:

(defvar {ID}-font-lock-keywords
  '(("--.*$" . font-lock-comment-face)
    ("^\\(?:{items}\\)\\>" . font-lock-keyword-face)
    ("^ +\\(?:{lines}\\)\\>" . font-lock-builtin-face)
    ("`[^`\n]*`" . font-lock-string-face)
    ("\\[\\(?:\\\\.\\|[^]\\\\ ,\n]\\)*\\]" . font-lock-string-face)
    ("\"\\(?:\\\\.\\|[^\"\\\\\n]\\)*\"" . font-lock-string-face)
    ("'\\(?:\\\\.\\|[^'\\\\\n]\\)*'" . font-lock-string-face))
  "Colours of definitions.")

(define-derived-mode {ID}-mode prog-mode "Quillon"
  "A mode for definitions of languages, and their cases."
  (setq-local comment-start "-- ")
  (setq-local indent-tabs-mode nil tab-width {STEP})
  (setq-local font-lock-defaults '({ID}-font-lock-keywords t)))

(add-to-list 'auto-mode-alist '("\\.quillon\\'" . {ID}-mode))
(add-to-list 'auto-mode-alist '("\\.cases\\'" . {ID}-mode))

(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '({ID}-mode . ("quillon" "editor"))))

(provide '{ID}-mode)
;;; {ID}-mode.el ends here
"#
        ),
    )
}
