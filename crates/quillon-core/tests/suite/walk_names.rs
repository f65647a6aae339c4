//! Names that a language binds without their being written: they are variables like others where a run stands.

use quillon_core::debugging::{At, Stopped};

use crate::common::with_tokens;
use crate::walks::{ON, Script, variables};

/// Boats with methods, which call the boat `me`.
const BOATS: &str = "
form Program
  written  steps:Step* by \";\"
  opens    scope
  means    all steps
form Boat in Step
  written  \"boat\" name:Name \"{\" methods:Method* by \",\" \"}\"
  binds    name onward
  means    name := map.of(\"tons\", 2); each m in methods { map.put(name, spelling of m.name, m) }
form Method
  written  name:Name \"takes\" params:Name* \":\" value:Expr
  opens    scope
  binds    \"me\" in value
  binds    params in value
  means    function (me, params) { value }
form Send in Step
  written  \"send\" name:Name what:Name values:Expr* by \",\"
  uses     name
  means    call map.get(name, spelling of what) with name, values
form Let in Step
  written  \"let\" name:Name \"=\" value:Expr
  binds    name onward
  means    name := value
form Alone in Step
  written  value:Expr
  means    value
form Tons in Expr
  written  \"tons\" of:Expr
  means    map.get(of, \"tons\")
form Sum in Expr
  written  \"sum\" left:Expr \"and\" right:Expr
  means    left + right
form Me in Expr
  written  name:\"me\"
  uses     name
  means    name
usual Number, Variable
";

/// The variables, and what two texts come to.
fn seen(at: &mut Stopped<'_, '_, '_>) -> String {
    let worked_out: Vec<String> = ["tons me", "sum more and tons me"]
        .iter()
        .map(|text| match at.evaluate(0, text) {
            Ok(answer) => answer.value.written(),
            Err(problems) => problems.first_message().to_owned(),
        })
        .collect();
    format!("{} | {}", variables(at), worked_out.join(", "))
}

#[test]
fn what_a_language_binds_unwritten_is_seen_and_can_be_named() {
    let language = with_tokens(BOATS);
    let text = "boat heron {\n  load takes more:\n    sum more and tons me\n};\nsend heron load 5";
    let mut script = Script::new([ON, ON])
        .stop(At::Line("lift".to_owned(), 3))
        .looking(seen);
    script.walk_in(&language, text, "");
    let at_stop = &script.seen[1];
    assert!(at_stop.contains("more=5"), "{at_stop}");
    assert!(at_stop.contains("me={\"tons\": 2"), "{at_stop}");
    assert!(at_stop.contains("| 2, 7"), "{at_stop}");
}
