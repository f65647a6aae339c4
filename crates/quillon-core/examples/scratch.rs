use quillon_core::source::SourceText;
use quillon_core::*;
use std::time::Instant;
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
    println!("{} bytes", t.len());
    let s = SourceText::new("p", t);
    for _ in 0..4 {
        let a = Instant::now();
        let k = l.all_tokens(&s);
        let t1 = a.elapsed();
        let a = Instant::now();
        let r = l.tree(&s, Reading::Program);
        let t2 = a.elapsed();
        let tree = r.value.unwrap();
        let a = Instant::now();
        let n = l.names(&tree, scoping::Around::Nothing);
        let t3 = a.elapsed();
        let names = n.value.unwrap();
        let a = Instant::now();
        let c = l.core(&tree, &names);
        let t4 = a.elapsed();
        let a = Instant::now();
        drop(c);
        let t4b = a.elapsed();
        let a = Instant::now();
        let e = l.examined(&s);
        let t5 = a.elapsed();
        let a = Instant::now();
        drop(e);
        drop(tree);
        drop(names);
        drop(k);
        let t6 = a.elapsed();
        println!(
            "tokens {t1:?} read {t2:?} names {t3:?} core {t4:?} drop {t4b:?} examined {t5:?} drop {t6:?}"
        );
    }
}
