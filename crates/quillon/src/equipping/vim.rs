//! Packages for Vim and Neovim: file types, colours, comments, and the start of the server.

use quillon_core::editing::{Dialect, Looks, Role, Rule, escaped, one_of};

use super::{About, File, STEP, notation};

pub fn files(all: &[About<'_>], is_neovim: bool) -> Vec<File> {
    let mut files = Vec::new();
    for about in all {
        let id = &about.id;
        files.push(File::new(format!("ftdetect/{id}.vim"), detection(about)));
        files.push(File::new(format!("syntax/{id}.vim"), syntax(about)));
        files.push(if is_neovim {
            File::new(format!("ftplugin/{id}.lua"), neovim(about))
        } else {
            File::new(format!("ftplugin/{id}.vim"), vim(about))
        });
    }
    files.extend(notation::for_vim(is_neovim));
    files.extend(
        all.first()
            .map(|about| File::new("README.md", readme(about, is_neovim))),
    );
    files
}

fn detection(about: &About<'_>) -> String {
    let patterns: Vec<String> = about
        .extensions
        .iter()
        .map(|one| format!("*{one}"))
        .collect();
    let id = &about.id;
    format!(
        "autocmd BufRead,BufNewFile {} setfiletype {id}\n",
        patterns.join(",")
    )
}

/// How a comment is written, with `%s` for what it says.
fn comment(about: &About<'_>) -> String {
    match (&about.line_comment, &about.block_comment) {
        (Some(line), _) => format!("{line} %s"),
        (None, Some((open, close))) => format!("{open} %s {close}"),
        (None, None) => String::new(),
    }
}

fn neovim(about: &About<'_>) -> String {
    let (id, name) = (&about.id, about.name.replace('\'', ""));
    let start = neovim_start(&comment(about));
    format!(
        "{start}
-- Where a client for debug adapters is installed, it walks through runs.
local found, dap = pcall(require, 'dap')
if found then
  dap.adapters.quillon = {{ type = 'executable', command = 'quillon', args = {{ 'debugger' }} }}
  dap.configurations['{id}'] = dap.configurations['{id}'] or {{
    {{ type = 'quillon', request = 'launch', name = 'Walk through a program in {name}', program = '${{file}}' }},
    {{ type = 'quillon', request = 'launch', name = 'Walk through a program and its meanings', program = '${{file}}', meanings = true }},
  }}
end
"
    )
}

/// What Neovim does with a text of a type.
pub fn neovim_start(comment: &str) -> String {
    let comment = comment.replace('\\', "\\\\").replace('\'', "\\'");
    format!(
        "vim.bo.commentstring = '{comment}'
vim.bo.expandtab = true
vim.bo.shiftwidth = {STEP}
vim.lsp.start({{
  name = 'quillon',
  cmd = {{ 'quillon', 'editor' }},
  root_dir = vim.fn.expand('%:p:h'),
}}, {{ reuse_client = function(client) return client.name == 'quillon' end }})
"
    )
}

fn vim(about: &About<'_>) -> String {
    vim_start(&about.id, &comment(about))
}

/// What Vim does with a text of a type.
pub fn vim_start(id: &str, comment: &str) -> String {
    let comment = comment
        .replace('|', "\\|")
        .replace(' ', "\\ ")
        .replace('"', "\\\"");
    format!(
        "setlocal commentstring={comment} expandtab shiftwidth={STEP}
\" Vim has no client of its own: this starts the server where one is there that is told so.
if exists('*lsp#register_server')
  call lsp#register_server({{
    \\ 'name': '{id}',
    \\ 'cmd': ['quillon', 'editor'],
    \\ 'allowlist': ['{id}'],
    \\ }})
endif
"
    )
}

fn syntax(about: &About<'_>) -> String {
    let id = &about.id;
    let mut out = String::from(
        "if exists('b:current_syntax')\n  finish\nendif\nsyntax case match\nsyntax sync fromstart\n",
    );
    // Of several items that begin at one place the last counts.
    for rule in about.rules(Dialect::Vim).iter().rev() {
        out += &item(rule, id);
    }
    for (group, like) in [
        ("Comment", "Comment"),
        ("Text", "String"),
        ("Escape", "SpecialChar"),
        ("Number", "Number"),
        ("Keyword", "Keyword"),
        ("Operator", "Operator"),
    ] {
        out += &format!("highlight default link {id}{group} {like}\n");
    }
    out + &format!("let b:current_syntax = '{id}'\n")
}

fn item(rule: &Rule, id: &str) -> String {
    let group = match rule.role {
        Some(Role::Comment) => "Comment",
        Some(Role::Text) => "Text",
        Some(Role::Number) => "Number",
        Some(Role::Keyword) => "Keyword",
        Some(Role::Operator) => "Operator",
        Some(Role::Kind | Role::Name { .. }) | None => "Name",
    };
    let sign = |text: &str| escaped(text, Dialect::Vim);
    let quoted = |regular: &str| {
        // A pattern stands between signs that are not in it.
        let signs = [
            '"', '\'', '/', '@', '!', ';', '~', '`', '&', '%', '#', '+', '=',
        ];
        let sign = signs.into_iter().find(|sign| !regular.contains(*sign));
        let sign = sign.unwrap_or('"');
        format!("{sign}\\v{regular}{sign}")
    };
    match &rule.looks {
        Looks::Words(words) => {
            let regular = format!("<%({})>", one_of(words, Dialect::Vim));
            format!("syntax match {id}{group} {}\n", quoted(&regular))
        }
        Looks::Signs(signs) => {
            let regular = one_of(signs, Dialect::Vim);
            format!("syntax match {id}{group} {}\n", quoted(&regular))
        }
        Looks::Fits(regular) => format!("syntax match {id}{group} {}\n", quoted(regular)),
        Looks::Line(open) => format!(
            "syntax match {id}{group} {}\n",
            quoted(&format!("{}.*$", sign(open)))
        ),
        Looks::Between {
            open,
            close,
            escapes,
            nests,
            hole,
        } => {
            let mut out = String::new();
            let mut more = String::new();
            let mut inside = Vec::new();
            if *escapes {
                out += &format!("syntax match {id}Escape \"\\\\.\" contained\n");
                more += " skip=\"\\\\.\"";
                inside.push(format!("{id}Escape"));
            }
            if *nests {
                inside.push(format!("{id}{group}"));
            }
            if let Some((open, close)) = hole {
                let (start, end) = (quoted(&sign(open)), quoted(&sign(close)));
                for (name, ground) in [
                    ("Bracketed", ""),
                    ("Hole", &format!(" matchgroup={id}{group}")),
                ] {
                    out += &format!(
                        "syntax region {id}{name}{ground} start={start} end={end} contained contains=TOP,{id}Bracketed\n"
                    );
                }
                inside.push(format!("{id}Hole"));
            }
            if !inside.is_empty() {
                more += &format!(" contains={}", inside.join(","));
            }
            let (start, end) = (quoted(&sign(open)), quoted(&sign(close)));
            out + &format!("syntax region {id}{group} start={start}{more} end={end}\n")
        }
    }
}

fn readme(about: &About<'_>, is_neovim: bool) -> String {
    let (folder, server) = if is_neovim {
        (
            format!("~/.local/share/nvim/site/pack/{0}/start/{0}", about.id),
            "Neovim 0.8 or newer starts `quillon editor` by itself; `quillon` has to be on the path. Where a client for debug adapters is installed (a module `dap`), `quillon debugger` is set up for it.",
        )
    } else {
        (
            format!("~/.vim/pack/{0}/start/{0}", about.id),
            "Where a client for language servers is installed that has `lsp#register_server`, `quillon editor` is started; `quillon` has to be on the path.",
        )
    };
    format!(
        "# {} for {}\n\nCopy this folder to `{folder}`.\n\n{server}\n",
        about.name,
        if is_neovim { "Neovim" } else { "Vim" },
    )
}
