//! What a pattern accepts, in plain words, with values that fit and values that nearly do.

use regex_syntax::ast::{self, Ast};
use regex_syntax::hir::{Hir, HirKind};

use crate::policy::pattern::Pattern;

/// What a pattern accepts.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PatternDescription {
    /// Its pieces in their order, in plain words.
    pub pieces: Vec<String>,
    /// Values that fit, made from the pattern.
    pub fitting: Vec<String>,
    /// Values that nearly fit: one change from one that does.
    pub failing: Vec<String>,
}

/// Values of each kind.
const EXAMPLES: usize = 3;

impl Pattern {
    /// What it accepts, with up to three values that fit and three that nearly do.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/\d{4}/[a-z]", true, false).unwrap();
    /// let description = loan.describe();
    /// assert_eq!(description.pieces, ["‘OBS/’", "4 digits", "‘/’", "one of a to z"]);
    /// assert!(description.fitting.iter().all(|value| loan.fits(value.as_bytes())));
    /// assert!(description.failing.iter().all(|value| !loan.fits(value.as_bytes())));
    /// ```
    pub fn describe(&self) -> PatternDescription {
        let mut description = PatternDescription::default();
        if let Ok(ast) = ast::parse::Parser::new().parse(&self.written) {
            description.pieces = pieces(&ast);
        }
        if !self.is_whole() {
            description.pieces.push("anywhere in the value".to_owned());
        }
        if self.ignores_case() {
            description.pieces.push("letter case does not count".to_owned());
        }
        if let Ok(hir) = regex_syntax::Parser::new().parse(&self.written) {
            for round in 0..4 * EXAMPLES {
                let mut value = String::new();
                write_example(&hir, round, &mut value);
                let is_new = !description.fitting.contains(&value) && description.fitting.len() < EXAMPLES;
                if is_new && self.fits(value.as_bytes()) {
                    description.fitting.push(value);
                }
            }
        }
        for value in description.fitting.iter().flat_map(|value| near(value)) {
            let is_new = !description.failing.contains(&value) && description.failing.len() < EXAMPLES;
            if is_new && !self.fits(value.as_bytes()) {
                description.failing.push(value);
            }
        }
        description
    }
}

/// The pieces of a pattern, texts that follow one another joined.
fn pieces(ast: &Ast) -> Vec<String> {
    let parts = match ast {
        Ast::Concat(concat) => &concat.asts[..],
        one => std::slice::from_ref(one),
    };
    let (mut pieces, mut text) = (Vec::new(), String::new());
    for part in parts {
        if let Ast::Literal(literal) = part {
            text.push(literal.c);
            continue;
        }
        if !text.is_empty() {
            pieces.push(format!("‘{}’", std::mem::take(&mut text)));
        }
        match part {
            Ast::Empty(_) | Ast::Flags(_) => {}
            Ast::Group(group) if matches!(*group.ast, Ast::Concat(_)) => {
                pieces.extend(self::pieces(&group.ast))
            }
            part => pieces.push(words(part, None)),
        }
    }
    if !text.is_empty() {
        pieces.push(format!("‘{text}’"));
    }
    pieces
}

/// One piece in words, as often as `times` says where it does.
fn words(ast: &Ast, times: Option<&str>) -> String {
    let often = |one: &str, several: &str| match times {
        None => one.to_owned(),
        Some(times) => format!("{times} {several}"),
    };
    let repeated = |what: String| match times {
        None => what,
        Some(times) => format!("{what}, {times} times"),
    };
    match ast {
        Ast::Empty(_) | Ast::Flags(_) => "nothing".to_owned(),
        Ast::Literal(literal) => match times {
            None => format!("‘{}’", literal.c),
            Some(times) => format!("{times} ‘{}’", literal.c),
        },
        Ast::Dot(_) => often("any character", "characters of any kind"),
        Ast::Assertion(assertion) => match assertion.kind {
            ast::AssertionKind::StartLine | ast::AssertionKind::StartText => {
                "the start of the value".to_owned()
            }
            ast::AssertionKind::EndLine | ast::AssertionKind::EndText => "the end of the value".to_owned(),
            ast::AssertionKind::NotWordBoundary => "no border of a word".to_owned(),
            _ => "the border of a word".to_owned(),
        },
        Ast::ClassPerl(class) => {
            let (one, several) = match class.kind {
                ast::ClassPerlKind::Digit => ("a digit", "digits"),
                ast::ClassPerlKind::Space => ("white space", "characters of white space"),
                ast::ClassPerlKind::Word => {
                    ("a letter, digit or underscore", "letters, digits or underscores")
                }
            };
            match class.negated {
                false => often(one, several),
                true => often(&format!("anything but {one}"), &format!("characters that are not {several}")),
            }
        }
        Ast::ClassUnicode(class) => {
            let [one, several] = unicode_class(&class.kind);
            often(&one, &several)
        }
        Ast::ClassBracketed(class) => {
            let set = set_words(&class.kind);
            match class.negated {
                false => often(&format!("one of {set}"), &format!("of {set}")),
                true => often(&format!("any character but {set}"), &format!("characters other than {set}")),
            }
        }
        Ast::Repetition(repetition) => {
            let count = match &repetition.op.kind {
                ast::RepetitionKind::ZeroOrOne => {
                    return format!("{}, or nothing", words(&repetition.ast, None));
                }
                ast::RepetitionKind::ZeroOrMore => "any number of".to_owned(),
                ast::RepetitionKind::OneOrMore => "one or more".to_owned(),
                ast::RepetitionKind::Range(range) => match range {
                    ast::RepetitionRange::Exactly(count) => count.to_string(),
                    ast::RepetitionRange::AtLeast(count) => format!("{count} or more"),
                    ast::RepetitionRange::Bounded(least, most) => format!("{least} to {most}"),
                },
            };
            repeated(words(&repetition.ast, Some(&count)))
        }
        Ast::Group(group) => match &*group.ast {
            Ast::Alternation(_) | Ast::Concat(_) => repeated(words(&group.ast, None)),
            inside => words(inside, times),
        },
        Ast::Alternation(alternation) => {
            let all: Vec<String> =
                alternation.asts.iter().map(|ast| pieces(ast).join(" and then ")).collect();
            repeated(format!("either {}", all.join(", or ")))
        }
        Ast::Concat(_) => repeated(pieces(ast).join(" and then ")),
    }
}

/// A class of Unicode: one character of it, and several.
fn unicode_class(kind: &ast::ClassUnicodeKind) -> [String; 2] {
    let name = match kind {
        ast::ClassUnicodeKind::OneLetter(letter) => letter.to_string(),
        ast::ClassUnicodeKind::Named(name) => name.clone(),
        ast::ClassUnicodeKind::NamedValue { name, value, .. } => format!("{name}={value}"),
    };
    match &*name {
        "L" | "Letter" => ["a letter of any script", "letters of any script"].map(str::to_owned),
        "N" | "Nd" | "Number" => ["a digit of any script", "digits of any script"].map(str::to_owned),
        name => [format!("a character of the class {name}"), format!("characters of the class {name}")],
    }
}

/// The characters of a class in brackets.
fn set_words(set: &ast::ClassSet) -> String {
    let item = |item: &ast::ClassSetItem| -> String {
        match item {
            ast::ClassSetItem::Literal(literal) => format!("‘{}’", literal.c),
            ast::ClassSetItem::Range(range) => format!("{} to {}", range.start.c, range.end.c),
            ast::ClassSetItem::Ascii(class) => format!("the class {:?}", class.kind).to_lowercase(),
            ast::ClassSetItem::Perl(class) => match class.kind {
                ast::ClassPerlKind::Digit => "digits".to_owned(),
                ast::ClassPerlKind::Space => "white space".to_owned(),
                ast::ClassPerlKind::Word => "letters, digits, underscores".to_owned(),
            },
            ast::ClassSetItem::Unicode(_) => "a class of letters".to_owned(),
            ast::ClassSetItem::Bracketed(class) => set_words(&class.kind),
            ast::ClassSetItem::Union(union) => union
                .items
                .iter()
                .map(|item| set_words(&ast::ClassSet::Item(item.clone())))
                .collect::<Vec<_>>()
                .join(", "),
            ast::ClassSetItem::Empty(_) => String::new(),
        }
    };
    match set {
        ast::ClassSet::Item(one) => item(one),
        ast::ClassSet::BinaryOp(operation) => {
            let between = match operation.kind {
                ast::ClassSetBinaryOpKind::Intersection => "that are also of",
                _ => "without",
            };
            format!("{} {between} {}", set_words(&operation.lhs), set_words(&operation.rhs))
        }
    }
}

/// Writes a value that the pattern accepts; other ones in other rounds.
fn write_example(hir: &Hir, round: usize, out: &mut String) {
    /// What stands in the place of a class, where it has it.
    const PREFERRED: &str = "aam1b2x7kz093-_. ";
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => {}
        HirKind::Literal(literal) => out.push_str(&String::from_utf8_lossy(&literal.0)),
        HirKind::Class(class) => {
            let has = |c: char| match class {
                regex_syntax::hir::Class::Unicode(class) => {
                    class.ranges().iter().any(|range| (range.start()..=range.end()).contains(&c))
                }
                regex_syntax::hir::Class::Bytes(class) => u8::try_from(c).is_ok_and(|b| {
                    class.ranges().iter().any(|range| (range.start()..=range.end()).contains(&b))
                }),
            };
            let fitting: Vec<char> = PREFERRED.chars().filter(|c| has(*c)).collect();
            let first = match class {
                regex_syntax::hir::Class::Unicode(class) => class.ranges().first().map(|range| range.start()),
                regex_syntax::hir::Class::Bytes(class) => {
                    class.ranges().first().map(|range| char::from(range.start()))
                }
            };
            // Each place of a value has another character.
            let nth = round * 5 + out.len() * 3;
            out.extend(fitting.get(nth % fitting.len().max(1)).copied().or(first));
        }
        HirKind::Repetition(repetition) => {
            let most = repetition.max.unwrap_or(repetition.min + 3);
            let times = (repetition.min + (round as u32 + 1) % 3).clamp(repetition.min, most).min(64);
            (0..times).for_each(|_| write_example(&repetition.sub, round, out));
        }
        HirKind::Capture(capture) => write_example(&capture.sub, round, out),
        HirKind::Concat(parts) => parts.iter().for_each(|part| write_example(part, round, out)),
        HirKind::Alternation(parts) => write_example(&parts[round % parts.len()], round, out),
    }
}

/// Values one change from `value`.
fn near(value: &str) -> Vec<String> {
    let characters: Vec<char> = value.chars().collect();
    let of = |characters: &[char]| characters.iter().collect::<String>();
    let middle = characters.len() / 2;
    let mut near = vec![of(&characters[..characters.len().saturating_sub(1)])];
    if let Some(digit) = characters.iter().rposition(char::is_ascii_digit) {
        let mut changed = characters.clone();
        changed[digit] = 'x';
        near.push(of(&changed));
    }
    if let Some(sign) = characters.iter().position(char::is_ascii_punctuation) {
        let mut changed = characters.clone();
        changed[sign] = if changed[sign] == '-' { ' ' } else { '-' };
        near.push(of(&changed));
    }
    near.push([&characters[..middle], &['#'], &characters[middle..]].concat().iter().collect());
    near.push(format!("{value}x"));
    near
}
