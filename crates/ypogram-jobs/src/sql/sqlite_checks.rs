//! The conditions of the grammar for SQLite, which has no regular expressions of its own.

use ypogram_core::Code;
use ypogram_core::entry_rule::{Characters, Condition};
use ypogram_io::SqlDialect;

use crate::sql::functions::SqlFunctions as _;

/// The condition on `value`, with its local part and domain; none where SQLite cannot say it.
pub(super) fn expression(value: &str, local: &str, domain: &str, condition: &Condition) -> Option<String> {
    let find = |text: &str, within: &str| format!("instr({within}, '{text}')");
    let dotted = format!("'.' || lower({domain}) || '.'");
    let tld = SqlDialect::Sqlite.behind_last_dot(value);
    let outside = "'*[^' || char(1) || '-' || char(127) || ']*'";
    Some(match condition.code {
        Code::NoAtSign => format!("{} > 0", find("@", value)),
        Code::EmptyLocalPart => format!("{} <> 1", find("@", value)),
        Code::EmptyDomain => format!("{value} NOT LIKE '%@'"),
        Code::SeveralAtSigns => format!("{} = 0", find("@", domain)),
        Code::AsTypedTrimmed => format!("trim({value}) = {value}"),
        Code::SpaceInside => format!("{value} NOT GLOB {}", glob(Characters::Spaces)),
        Code::AsTypedInvisible => format!("{value} NOT GLOB {}", glob(Characters::Invisible)),
        Code::BidiControl => format!("{value} NOT GLOB {}", glob(Characters::Directions)),
        Code::AsTypedFullWidth => format!("{value} NOT GLOB {}", glob(Characters::FullWidth)),
        Code::ControlCharacter => format!("{value} NOT GLOB {}", any_of([(1, 31), (127, 159)])),
        Code::CharacterNotAllowed => {
            let letters = glob(Characters::NoLetters);
            format!("({local} NOT GLOB '*[](),:;<>[\\]*' AND {value} NOT GLOB {letters})")
        }
        Code::DotAtEdge => format!("({local} NOT LIKE '.%' AND {local} NOT LIKE '%.')"),
        Code::DoubleDot => format!("{} = 0", find("..", local)),
        Code::EmptyLabel => format!("{} = 0", find("..", &format!("'.' || {domain}"))),
        Code::TrailingDot => format!("{value} NOT LIKE '%.'"),
        Code::UnderscoreInDomain => format!("{} = 0", find("_", domain)),
        Code::DomainCharacter => format!("{domain} NOT GLOB '*[]!#$%&''()*+,/:;<=>?[\\^`{{|}}~]*'"),
        Code::HyphenAtEdge => format!("({} = 0 AND {} = 0)", find(".-", &dotted), find("-.", &dotted)),
        Code::HyphensThirdFourth => {
            format!("({dotted} NOT GLOB '*.[^x.][^.]--*' AND {dotted} NOT GLOB '*.x[^n.]--*')")
        }
        Code::LabelTooLong => format!("{domain} NOT GLOB '*{}*'", "[^.]".repeat(64)),
        Code::OneLabelDomain => format!("{} > 0", find(".", domain)),
        Code::NumericTld => format!("({tld} = '' OR {tld} GLOB '*[^0-9]*')"),
        Code::NonAsciiLocal => format!("{local} NOT GLOB {outside}"),
        Code::NonAsciiDomain => format!("({domain} NOT GLOB {outside} AND {} = 0)", find(".xn--", &dotted)),
        Code::NotHtmlAddress => format!("{value} NOT GLOB {outside}"),
        _ => return None,
    })
}

/// The pattern of what has one of these characters.
fn glob(kind: Characters) -> String {
    any_of(kind.ranges().iter().map(|(first, last)| (*first as u32, *last as u32)))
}

fn any_of(ranges: impl IntoIterator<Item = (u32, u32)>) -> String {
    let range = |(first, last)| match first == last {
        true => format!("char({first})"),
        false => format!("char({first}) || '-' || char({last})"),
    };
    format!("'*[' || {} || ']*'", ranges.into_iter().map(range).collect::<Vec<_>>().join(" || "))
}
