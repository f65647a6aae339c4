use quillon_core::source::SourceText;
use quillon_core::*;
fn main() {
    let d = std::fs::read_to_string("languages/towpath/towpath.quillon").unwrap();
    let l = Language::load(&SourceText::new("d", d)).value.unwrap();
    let p = std::fs::read_to_string("languages/towpath/programs/flight.tow").unwrap();
    let mut t = String::new();
    while t.lines().count() < 20000 {
        t += "when yes {\n";
        t += &p;
        t += "}\n";
    }
    let s = SourceText::new("p", t);
    let tree = l.tree(&s, Reading::Program).value.unwrap();
    for _ in 0..40 {
        let n = l.names(&tree, scoping::Around::Nothing);
        std::hint::black_box(&n);
    }
}
