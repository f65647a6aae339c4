//! What the colours of a terminal of 256 colours are, by its ground: each is read well on it.

use anstyle::{Ansi256Color, AnsiColor};
use std::sync::OnceLock;

/// What a terminal writes on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Ground {
    Dark,
    Light,
    /// Not known: colours between the two, read well on black and on white.
    Unknown,
}

impl Ground {
    /// What is said of it, or can be told from the environment: `COLORFGBG` has the numbers of the two colours that a
    /// terminal writes with, the ground last.
    fn told(said: Option<&str>, colours: Option<&str>) -> Ground {
        match said {
            Some("dark") => return Ground::Dark,
            Some("light") => return Ground::Light,
            _ => {}
        }
        let ground = colours.and_then(|both| both.rsplit(';').next()?.parse().ok());
        match ground {
            Some(0..=6 | 8) => Ground::Dark,
            Some(7 | 9..=15) => Ground::Light,
            _ => Ground::Unknown,
        }
    }
}

/// The colour of each role, by its number among the 256.
struct Palette {
    quiet: u8,
    error: u8,
    warning: u8,
    note: u8,
    good: u8,
    heading: u8,
    form: u8,
}

impl Palette {
    const fn on(ground: Ground) -> Palette {
        match ground {
            Ground::Dark => Palette {
                quiet: 248,
                error: 209,
                warning: 221,
                note: 117,
                good: 79,
                heading: 183,
                form: 111,
            },
            Ground::Light => Palette {
                quiet: 241,
                error: 160,
                warning: 94,
                note: 24,
                good: 23,
                heading: 90,
                form: 25,
            },
            Ground::Unknown => Palette {
                quiet: 243,
                error: 163,
                warning: 131,
                note: 63,
                good: 29,
                heading: 98,
                form: 63,
            },
        }
    }

    /// The colour for what one of the sixteen stands for in [`super`].
    fn of(&self, role: AnsiColor) -> Option<Ansi256Color> {
        let number = match role {
            AnsiColor::BrightBlack => self.quiet,
            AnsiColor::BrightRed => self.error,
            AnsiColor::BrightYellow => self.warning,
            AnsiColor::BrightCyan | AnsiColor::Cyan => self.note,
            AnsiColor::BrightGreen | AnsiColor::Green => self.good,
            AnsiColor::BrightMagenta => self.heading,
            AnsiColor::BrightBlue => self.form,
            AnsiColor::Black
            | AnsiColor::Red
            | AnsiColor::Yellow
            | AnsiColor::Blue
            | AnsiColor::Magenta
            | AnsiColor::White
            | AnsiColor::BrightWhite => return None,
        };
        Some(Ansi256Color(number))
    }
}

/// Whether a terminal of this name has 256 colours.
fn has_many(term: &str, colorterm: &str) -> bool {
    let names = [
        "256color",
        "kitty",
        "alacritty",
        "direct",
        "foot",
        "ghostty",
    ];
    !colorterm.is_empty() || names.iter().any(|name| term.contains(name))
}

/// The colour of a role on this terminal; nothing where it has sixteen, whose look is its own affair.
pub(super) fn colour(role: AnsiColor) -> Option<Ansi256Color> {
    static OWN: OnceLock<Option<Palette>> = OnceLock::new();
    let own = OWN.get_or_init(|| {
        let told = |name| std::env::var(name).unwrap_or_default();
        let (said, colours) = (told("QUILLON_GROUND"), told("COLORFGBG"));
        let ground = Ground::told(Some(&said), Some(&colours));
        has_many(&told("TERM"), &told("COLORTERM")).then(|| Palette::on(ground))
    });
    own.as_ref()?.of(role)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// How bright a part of a colour is (WCAG 2.2, relative luminance).
    fn linear(part: f64) -> f64 {
        if part <= 0.04045 {
            part / 12.92
        } else {
            ((part + 0.055) / 1.055).powf(2.4)
        }
    }

    /// The red, green and blue of one of the 256, each up to 1, linear.
    fn light(number: u8) -> [f64; 3] {
        let parts = if number >= 232 {
            [8 + 10 * (u32::from(number) - 232); 3]
        } else {
            let at = u32::from(number) - 16;
            [at / 36, at / 6 % 6, at % 6].map(|step| if step == 0 { 0 } else { 55 + 40 * step })
        };
        parts.map(|part| linear(f64::from(part) / 255.0))
    }

    fn hex(ground: u32) -> [f64; 3] {
        [16, 8, 0].map(|shift| linear(f64::from(ground >> shift & 0xff) / 255.0))
    }

    fn brightness([red, green, blue]: [f64; 3]) -> f64 {
        0.2126 * red + 0.7152 * green + 0.0722 * blue
    }

    fn contrast(one: [f64; 3], other: [f64; 3]) -> f64 {
        let (one, other) = (brightness(one) + 0.05, brightness(other) + 0.05);
        one.max(other) / one.min(other)
    }

    fn all(palette: &Palette) -> [u8; 7] {
        let &Palette {
            quiet,
            error,
            warning,
            note,
            good,
            heading,
            form,
        } = palette;
        [quiet, error, warning, note, good, heading, form]
    }

    #[test]
    fn every_colour_is_read_well_on_its_grounds() {
        for (ground, colours) in [
            (
                Ground::Dark,
                &[0x00_0000, 0x1e_1e1e, 0x00_2b36, 0x28_2a36][..],
            ),
            (Ground::Light, &[0xff_ffff, 0xfd_f6e3, 0xee_eeee][..]),
            (Ground::Unknown, &[0x00_0000, 0xff_ffff][..]),
        ] {
            for number in all(&Palette::on(ground)) {
                for &own in colours {
                    let found = contrast(light(number), hex(own));
                    assert!(found >= 4.5, "{number} on {own:06x}: {found:.2}");
                }
            }
        }
    }

    /// What someone sees of a colour whose eyes lack the receptors for red, or those for green (Viénot, Brettel and
    /// Mollon, "Digital video colourmaps for checking the legibility of displays by dichromats", 1999).
    fn without([red, green, blue]: [f64; 3], lacks_red: bool) -> [f64; 3] {
        let both = if lacks_red {
            0.11238 * red + 0.88762 * green
        } else {
            0.29275 * red + 0.70725 * green
        };
        let sign = if lacks_red { 0.00401 } else { -0.02234 };
        [both, both, sign * (red - green) + blue]
    }

    #[test]
    fn what_went_well_and_what_went_wrong_differ_for_the_colour_blind() {
        for ground in [Ground::Dark, Ground::Light, Ground::Unknown] {
            let own = Palette::on(ground);
            for lacks_red in [true, false] {
                let seen = |number| without(light(number), lacks_red);
                let (good, wrong) = (seen(own.good), seen(own.error));
                // As far apart as they look: about as the eye sees brightness.
                let squares = good.iter().zip(wrong).map(|(a, b)| {
                    let difference = a.max(0.0).powf(1.0 / 2.2) - b.max(0.0).powf(1.0 / 2.2);
                    difference * difference
                });
                let apart = squares.sum::<f64>().sqrt();
                assert!(apart > 0.25, "{ground:?}, {lacks_red}: {apart:.3}");
            }
        }
    }

    #[test]
    fn the_ground_is_what_is_said_or_what_the_terminal_tells() {
        for (said, colours, ground) in [
            (Some("light"), Some("15;0"), Ground::Light),
            (Some("dark"), None, Ground::Dark),
            (None, Some("15;0"), Ground::Dark),
            (None, Some("0;default;15"), Ground::Light),
            (Some(""), Some("0;7"), Ground::Light),
            (None, Some("default"), Ground::Unknown),
            (None, None, Ground::Unknown),
        ] {
            assert_eq!(Ground::told(said, colours), ground, "{said:?} {colours:?}");
        }
    }

    #[test]
    fn terminals_of_sixteen_colours_keep_their_own() {
        assert!(has_many("xterm-256color", "") && has_many("screen", "truecolor"));
        assert!(!has_many("linux", "") && !has_many("vt100", ""));
    }
}
