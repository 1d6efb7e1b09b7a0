//! The conditions of the grammar.

use crate::entry_rule::characters::Characters::{self, Directions, FullWidth, Invisible, NoLetters, Spaces};
use crate::entry_rule::condition::Demand::{self, AtMost, Matches, Never, Where};
use crate::entry_rule::condition::Length;
use crate::model::codes::Code;
use crate::model::grammar_choice::Grammar;

/// Everything outside ASCII that no address may have as it is typed, as the inside of a class.
pub(super) fn never_typed() -> String {
    let kinds = [Spaces, Invisible, Directions, FullWidth, NoLetters];
    kinds.into_iter().fold(r"\u{80}-\u{9F}".to_owned(), |all, kind| all + &kind.class_without_space())
}

/// What the grammar asks, with the finding of what does not fulfil it, in the order in which findings are told.
pub(super) fn demands(grammar: Grammar, longest: Option<usize>) -> Vec<(Code, Demand)> {
    let any = |kind: Characters| Never(format!("[{}]", kind.class()));
    let (spaces, no_letters) = (Spaces.class(), NoLetters.class());
    // What stands in quotes may have an @ as well; the domain is behind them.
    let in_domain = |text: &str| Never(format!("@[^\"@]*{text}[^\"]*$"));
    let label_with = |text: &str| Never(format!("@(?:[^\"@]*\\.)?{text}[^\"]*$"));
    let mut demands = vec![
        (Code::NoAtSign, Matches("@".into())),
        (Code::AsTypedTrimmed, Never(format!("^[{spaces}]|[{spaces}]$"))),
        (Code::AsTypedInvisible, any(Invisible)),
        (Code::BidiControl, any(Directions)),
        (Code::AsTypedFullWidth, any(FullWidth)),
        // In quotes a space may stand.
        (Code::SpaceInside, Never(format!("[{spaces}][^\"]*$|^\"(?s:.)*[{}]", Spaces.class_without_space()))),
        (Code::ControlCharacter, Never(r"[\x00-\x1F\x7F-\u{9F}]".into())),
        (Code::SeveralAtSigns, in_domain("@")),
        (Code::EmptyLocalPart, Never("^@".into())),
        (Code::EmptyDomain, Never("@$".into())),
        (
            Code::UnbalancedQuote,
            Where("\"".into(), r#"^"(?:[ !#-\[\]-~[^\x00-\x7F]]|\\[ -~])*"@[^"]*$"#.into()),
        ),
        (Code::CharacterNotAllowed, Never(format!(r#"^[^"@]*[(),:;<>\[\\\]]|[{no_letters}]"#))),
        (Code::EmptyLabel, label_with(r"\.")),
        (Code::TrailingDot, Never(r"\.$".into())),
        (Code::UnderscoreInDomain, in_domain("_")),
        (Code::DomainCharacter, in_domain(r"[!#$%&'()*+,/:;<=>?\[\\\]^`{|}~]")),
        (Code::HyphenAtEdge, Never(r#"@(?:[^"@]*\.)?-[^"]*$|@[^"@]*-(?:\.[^"]*)?$"#.into())),
        (Code::LabelTooLong, label_with(r#"[^"@.]{64}"#)),
        (Code::OneLabelDomain, Never("@[^\"@.]+$".into())),
        (Code::NumericTld, Never(r"[@.][0-9]+$".into())),
    ];
    match grammar {
        // It takes dots anywhere in a local part, and knows no other length.
        Grammar::Html => demands.push((Code::NotHtmlAddress, Never(r#"["[^\x00-\x7F]]"#.into()))),
        Grammar::Smtp | Grammar::Header => demands.extend([
            (Code::DotAtEdge, Never(r#"^\.|^[^"@]*\.@"#.into())),
            (Code::DoubleDot, Never(r#"^[^"@]*\.\."#.into())),
            (Code::LocalPartTooLong, AtMost(Length::LocalPart, 64)),
            (Code::HyphensThirdFourth, label_with(r#"(?:[^"@.xX][^"@.]|[xX][^"@.nN])--"#)),
        ]),
    }
    if let Some(bytes) = longest {
        demands.push((Code::AddressTooLong, AtMost(Length::Whole, bytes)));
    }
    demands
}

/// What is asked where findings reject that only tell something else about an address.
pub(super) fn demands_of_meaning() -> [(Code, Demand); 3] {
    [
        (Code::QuotedLocalPart, Never("^\"".into())),
        (Code::NonAsciiLocal, Never(r"^[^@]*[^\x00-\x7F@]".into())),
        (Code::NonAsciiDomain, Never(r#"@[^"@]*[^\x00-\x7F][^"]*$|[@.][Xx][Nn]--[^"@]*$"#.into())),
    ]
}

/// The same as one expression, from the first character to the last, but for lengths of the whole.
pub(super) fn whole(grammar: Grammar) -> String {
    let typed = format!("[^\\x00-\\x7F{}]", never_typed());
    let atext = r"A-Za-z0-9!#$%&'*+/=?^_`{|}~\-";
    let (local, letter) = match grammar {
        Grammar::Html => (format!("[{atext}.]+"), "A-Za-z0-9".to_owned()),
        Grammar::Smtp | Grammar::Header => (
            format!(r#"(?:[{atext}{typed}]+(?:\.[{atext}{typed}]+)*|"(?:[ !#-\[\]-~{typed}]|\\[ -~])*")"#),
            format!("A-Za-z0-9{typed}"),
        ),
    };
    let label = format!(r"[{letter}](?:[{letter}\-]{{0,61}}[{letter}])?");
    format!(r"^{local}@(?:{label}\.)+{label}$")
}
