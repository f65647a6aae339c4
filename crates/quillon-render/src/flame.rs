//! Calls as a picture: each as wide as its time, what it calls upon it.

use quillon_core::profiling::Flame;

use crate::xml::on_one_line;

const WIDTH: f64 = 1200.0;
const ROW: f64 = 22.0;
const MARGIN: f64 = 14.0;
const HEADING: f64 = 34.0;
/// Calls narrower than this are left out.
const NARROWEST: f64 = 0.6;
/// About the width of a letter.
const LETTER: f64 = 7.3;

/// The picture; what waits and what is called stand one upon the other.
pub fn to_svg(flame: &Flame, title: &str) -> String {
    let rows = depth(flame);
    let height = HEADING + rows as f64 * ROW + MARGIN;
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{:.0}\" height=\"{height:.0}\" \
         viewBox=\"0 0 {:.0} {height:.0}\">\n\
         <style>text {{ font-family: monospace; font-size: 12px; fill: #1d2733 }}\n\
         .title {{ font-size: 15px; font-weight: bold }}\n\
         rect {{ stroke: #ffffff; stroke-width: 1 }}</style>\n\
         <rect width=\"100%\" height=\"100%\" fill=\"#ffffff\"/>\n\
         <text class=\"title\" x=\"{MARGIN}\" y=\"22\">{}</text>\n",
        WIDTH + 2.0 * MARGIN,
        WIDTH + 2.0 * MARGIN,
        on_one_line(title)
    );
    let whole = flame.seconds.max(1e-12);
    let mut picture = Picture {
        out: &mut out,
        whole,
        bottom: height - MARGIN,
    };
    picture.calls(&flame.calls, MARGIN, 0);
    out.push_str("</svg>\n");
    out
}

fn depth(flame: &Flame) -> usize {
    flame
        .calls
        .iter()
        .map(|call| 1 + depth(call))
        .max()
        .unwrap_or(0)
}

struct Picture<'a> {
    out: &'a mut String,
    whole: f64,
    bottom: f64,
}

impl Picture<'_> {
    fn calls(&mut self, calls: &[Flame], mut x: f64, row: usize) {
        for call in calls {
            let width = call.seconds / self.whole * WIDTH;
            if width >= NARROWEST {
                self.call(call, x, width, row);
                self.calls(&call.calls, x, row + 1);
            }
            x += width;
        }
    }

    fn call(&mut self, call: &Flame, x: f64, width: f64, row: usize) {
        let y = self.bottom - (row + 1) as f64 * ROW;
        let part = call.seconds / self.whole * 100.0;
        let name = on_one_line(&call.name);
        self.out.push_str(&format!(
            "<g><title>{name}: {part:.1} %, {:.2} ms</title>\
             <rect x=\"{x:.1}\" y=\"{y:.1}\" width=\"{width:.1}\" height=\"{ROW}\" fill=\"{}\"/>",
            call.seconds * 1e3,
            colour(&call.name)
        ));
        let letters = ((width - 8.0) / LETTER).max(0.0) as usize;
        if letters >= 2 {
            let mut shown: String = call.name.chars().take(letters).collect();
            if shown.chars().count() < call.name.chars().count() {
                shown.pop();
                shown.push('…');
            }
            self.out.push_str(&format!(
                "<text x=\"{:.1}\" y=\"{:.1}\">{}</text>",
                x + 4.0,
                y + 15.0,
                on_one_line(&shown)
            ));
        }
        self.out.push_str("</g>\n");
    }
}

/// A colour that is always the same for a name.
fn colour(name: &str) -> &'static str {
    const COLOURS: [&str; 6] = [
        "#bcd9ea", "#cfe5d6", "#f3dfae", "#e3d3ec", "#f4c9b8", "#d5dde6",
    ];
    let sum: usize = name.bytes().map(usize::from).sum();
    COLOURS[sum % COLOURS.len()]
}
