//! Expressions in the words of other engines.

use regex_syntax::ParserBuilder;
use regex_syntax::hir::{Class, ClassUnicode, ClassUnicodeRange, Hir, HirKind, Look};

/// Whose words an expression is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Flavour {
    /// PCRE and PCRE2, in UTF mode.
    Pcre,
    /// ECMAScript without flags or with `u` or `v`; Python's `re` understands it as well.
    EcmaScript,
    /// The advanced regular expressions of PostgreSQL.
    Postgres,
}

/// Classes of more ranges than this become the letters of ASCII that they have.
const MOST_RANGES: usize = 64;

impl Flavour {
    /// The expression `regex`, which is in the syntax of the crate `regex`; none where this flavour cannot say it. Groups are not counted, and
    /// repetitions take as much as they can, so that it says whether something matches and not where. Of a class with letters of many
    /// scripts those of ASCII stay.
    ///
    /// ```
    /// use ypogram_core::entry_rule::Flavour;
    /// let written = |flavour: Flavour| flavour.write(r"^(?:OBS)/\d{4}[^\x00-\x{200B}]").unwrap();
    /// assert_eq!(written(Flavour::Pcre), r"^OBS\/[0-9]{4}[^\x00-\x{200B}]");
    /// assert_eq!(written(Flavour::EcmaScript), r"^OBS\/[0-9]{4}[^\u0000-\u200B]");
    /// ```
    pub fn write(self, regex: &str) -> Option<String> {
        let hir = ParserBuilder::new().build().parse(regex).ok()?;
        // Written without classes of two letters, a list is half as long; the others know no such mark within an expression.
        let either_case = self == Flavour::Pcre && pairs(&hir) == Some(true);
        let mut writer = Writer { flavour: self, text: String::new(), either_case };
        writer.group_as("(?i:", either_case, |writer| writer.write(&hir, Around::Nothing))?;
        Some(writer.text)
    }
}

/// What stands around a part.
#[derive(Clone, Copy, PartialEq)]
enum Around {
    Nothing,
    Others,
    Repetition,
}

struct Writer {
    flavour: Flavour,
    text: String,
    /// Letter case does not count in what is written.
    either_case: bool,
}

/// Whether letters of ASCII stand in both cases wherever they stand, and some do; none where one does not.
fn pairs(hir: &Hir) -> Option<bool> {
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => Some(false),
        HirKind::Literal(literal) => (!literal.0.iter().any(u8::is_ascii_alphabetic)).then_some(false),
        HirKind::Class(Class::Unicode(class)) => {
            let has = |c: char| class.ranges().iter().any(|range| (range.start()..=range.end()).contains(&c));
            let is_same = ('a'..='z').all(|c| has(c) == has(c.to_ascii_uppercase()));
            is_same.then(|| pair(class).is_some())
        }
        HirKind::Class(Class::Bytes(_)) => None,
        HirKind::Repetition(repetition) => pairs(&repetition.sub),
        HirKind::Capture(capture) => pairs(&capture.sub),
        HirKind::Concat(parts) | HirKind::Alternation(parts) => {
            parts.iter().try_fold(false, |any, part| Some(pairs(part)? | any))
        }
    }
}

/// The letter of which a class has both cases and nothing else.
fn pair(class: &ClassUnicode) -> Option<char> {
    match class.ranges() {
        [upper, lower] if upper.start() == upper.end() && lower.start() == lower.end() => {
            let is_pair =
                upper.start().is_ascii_uppercase() && upper.start().to_ascii_lowercase() == lower.start();
            is_pair.then(|| lower.start())
        }
        _ => None,
    }
}

impl Writer {
    fn write(&mut self, hir: &Hir, around: Around) -> Option<()> {
        match hir.kind() {
            HirKind::Empty => {
                if around == Around::Repetition {
                    self.text.push_str("(?:)");
                }
            }
            HirKind::Literal(literal) => {
                let text = std::str::from_utf8(&literal.0).ok()?;
                let is_group = around == Around::Repetition && text.chars().count() > 1;
                self.group(is_group, |writer| {
                    text.chars().for_each(|c| writer.literal(c));
                    Some(())
                })?;
            }
            HirKind::Class(class) => self.class(class)?,
            HirKind::Look(look) => self.text.push_str(match look {
                Look::Start => "^",
                Look::End => "$",
                Look::WordAscii | Look::WordUnicode if self.flavour == Flavour::Postgres => r"\y",
                Look::WordAscii | Look::WordUnicode => r"\b",
                _ => return None,
            }),
            HirKind::Repetition(repetition) => {
                self.group(around == Around::Repetition, |writer| {
                    writer.write(&repetition.sub, Around::Repetition)?;
                    let count = match (repetition.min, repetition.max) {
                        (0, None) => "*".to_owned(),
                        (1, None) => "+".to_owned(),
                        (0, Some(1)) => "?".to_owned(),
                        (1, Some(1)) => String::new(),
                        (least, None) => format!("{{{least},}}"),
                        (least, Some(most)) if least == most => format!("{{{least}}}"),
                        (least, Some(most)) => format!("{{{least},{most}}}"),
                    };
                    writer.text.push_str(&count);
                    Some(())
                })?;
            }
            HirKind::Capture(capture) => self.write(&capture.sub, around)?,
            HirKind::Concat(parts) => self.group(around == Around::Repetition, |writer| {
                parts.iter().try_for_each(|part| writer.write(part, Around::Others))
            })?,
            HirKind::Alternation(ways) => self.group(around != Around::Nothing, |writer| {
                for (nth, way) in ways.iter().enumerate() {
                    if nth > 0 {
                        writer.text.push('|');
                    }
                    writer.write(way, Around::Others)?;
                }
                Some(())
            })?,
        }
        Some(())
    }

    fn group(&mut self, is_one: bool, write: impl FnOnce(&mut Self) -> Option<()>) -> Option<()> {
        self.group_as("(?:", is_one, write)
    }

    fn group_as(
        &mut self,
        open: &str,
        is_one: bool,
        write: impl FnOnce(&mut Self) -> Option<()>,
    ) -> Option<()> {
        if !is_one {
            return write(self);
        }
        self.text.push_str(open);
        write(self)?;
        self.text.push(')');
        Some(())
    }

    fn literal(&mut self, c: char) {
        match c {
            '.' | '*' | '+' | '?' | '(' | ')' | '[' | ']' | '{' | '}' | '|' | '^' | '$' | '\\' | '/' => {
                self.text.extend(['\\', c]);
            }
            ' '..='~' => self.text.push(c),
            c => self.code(c),
        }
    }

    /// A character by its number.
    fn code(&mut self, c: char) {
        if self.flavour == Flavour::Pcre {
            let text =
                if c < '\u{80}' { format!("\\x{:02X}", c as u32) } else { format!("\\x{{{:X}}}", c as u32) };
            return self.text.push_str(&text);
        }
        let mut units = [0; 2];
        for unit in c.encode_utf16(&mut units) {
            self.text.push_str(&format!("\\u{unit:04X}"));
        }
    }

    fn class(&mut self, class: &Class) -> Option<()> {
        let class = match class {
            Class::Unicode(class) => class.clone(),
            Class::Bytes(class) => class.to_unicode_class()?,
        };
        if let Some(letter) = pair(&class).filter(|_| self.either_case) {
            self.literal(letter);
            return Some(());
        }
        let is_open = class.ranges().last().is_some_and(|range| range.end() == char::MAX);
        let mut ranges = class.clone();
        if is_open {
            ranges.negate();
        }
        // Characters beyond the basic plane are two units in ECMAScript.
        let is_wide = |class: &ClassUnicode| class.ranges().iter().any(|range| range.end() > '\u{FFFF}');
        if ranges.ranges().len() > MOST_RANGES || is_wide(&ranges) {
            ranges = class;
            ranges.intersect(&ClassUnicode::new([ClassUnicodeRange::new('\0', '\x7F')]));
            self.ranges("[", &ranges);
            return Some(());
        }
        match ranges.ranges() {
            [] if is_open => self.text.push_str(r"[\s\S]"),
            [] => return None,
            [only] if !is_open && only.start() == only.end() => self.literal(only.start()),
            _ => self.ranges(if is_open { "[^" } else { "[" }, &ranges),
        }
        Some(())
    }

    fn ranges(&mut self, open: &str, class: &ClassUnicode) {
        self.text.push_str(open);
        for range in class.ranges() {
            // PostgreSQL has no character of that number.
            let is_null = range.start() == '\0' && self.flavour == Flavour::Postgres;
            let (start, end) = (if is_null { '\u{1}' } else { range.start() }, range.end());
            self.of_class(start);
            if end > start {
                if end as u32 > start as u32 + 1 {
                    self.text.push('-');
                }
                self.of_class(end);
            }
        }
        self.text.push(']');
    }

    fn of_class(&mut self, c: char) {
        match c {
            '(' | ')' | '[' | ']' | '{' | '}' | '|' | '^' | '\\' | '/' | '-' => self.text.extend(['\\', c]),
            ' '..='~' => self.text.push(c),
            c => self.code(c),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_engine_gets_its_own_words() {
        const CASES: [(&str, [Option<&str>; 3]); 14] = [
            (r"a|bc", [Some("a|bc"); 3]),
            (r"^(?:ab)+$", [Some("^(?:ab)+$"); 3]),
            (r"(a)(?P<n>b)", [Some("ab"); 3]),
            (r"x{2}y{1,3}z{4,}", [Some("x{2}y{1,3}z{4,}"); 3]),
            (r"a(?:b|cd)e", [Some("a(?:b|cd)e"); 3]),
            (r"[a\-\]^]", [Some(r"[\-\]\^a]"); 3]),
            (r"\.\*\/\{", [Some(r"\.\*\/\{"); 3]),
            (r"\d\w?", [Some("[0-9][0-9A-Z_a-z]?"); 3]),
            // One mark for all letters where PCRE has it, and classes of two where not.
            (r"[Cc][Oo]", [Some("(?i:co)"), Some("[Cc][Oo]"), Some("[Cc][Oo]")]),
            (r"[Cc]o", [Some("[Cc]o"); 3]),
            (r"[\x00-\x1F]", [Some(r"[\x00-\x1F]"), Some(r"[\u0000-\u001F]"), Some(r"[\u0001-\u001F]")]),
            ("ж", [Some(r"\x{436}"), Some(r"\u0436"), Some(r"\u0436")]),
            (r"\bx", [Some(r"\bx"), Some(r"\bx"), Some(r"\yx")]),
            (r"(?m)^x", [None; 3]),
        ];
        for (regex, expected) in CASES {
            for (flavour, expected) in
                [Flavour::Pcre, Flavour::EcmaScript, Flavour::Postgres].into_iter().zip(expected)
            {
                assert_eq!(flavour.write(regex).as_deref(), expected, "{regex} for {flavour:?}");
            }
        }
    }
}
