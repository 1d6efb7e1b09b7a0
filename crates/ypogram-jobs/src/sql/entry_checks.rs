//! What an entry has to be, as conditions of SQL: one for each finding, so that the database names what is at fault.

use ypogram_core::Code;
use ypogram_core::entry_rule::{Condition, Demand, EntryRule, Flavour, Length, ListedDomain};
use ypogram_io::SqlDialect;

use crate::sql::functions::SqlFunctions as _;
use crate::sql::sqlite_checks;

/// A condition that holds for entries that are taken, and is unknown for NULL.
pub(crate) struct EntryCheck {
    /// The name of the condition of the rule.
    pub(crate) name: String,
    /// What is said of an entry for which it does not hold.
    pub(crate) sentence: String,
    /// The condition.
    pub(crate) expression: String,
}

/// The conditions of `rule` on the text that the expression `operand` gives, and those that this database cannot hold. Local parts in quotation
/// marks are refused.
pub(crate) fn of_rule<'r>(
    sql: SqlDialect,
    operand: &str,
    rule: &'r EntryRule,
) -> (Vec<EntryCheck>, Vec<&'r Condition>) {
    let value = sql.exactly(operand);
    let (mut checks, mut without) = (Vec::new(), Vec::new());
    for condition in &rule.conditions {
        // What stands in quotes is refused as a whole.
        let is_of_quotes = matches!(condition.code, Code::UnbalancedQuote | Code::QuotedLocalPart);
        let expression = match is_of_quotes {
            true => Some(format!("{} = 0", sql.find("'\"'", &value))),
            false => expression(sql, &value, condition),
        };
        match expression {
            Some(_) if condition.code == Code::QuotedLocalPart => {}
            Some(expression) => checks.push(EntryCheck {
                name: condition.name.clone(),
                sentence: condition.sentence.clone(),
                expression,
            }),
            None => without.push(condition),
        }
    }
    (checks, without)
}

fn expression(sql: SqlDialect, value: &str, condition: &Condition) -> Option<String> {
    let (local, domain) = parts(sql, value);
    Some(match &condition.demand {
        Demand::AtMost(Length::Whole, bytes) => format!("{} <= {bytes}", sql.byte_length(value)),
        Demand::AtMost(Length::LocalPart, bytes) => format!("{} <= {bytes}", sql.byte_length(&local)),
        Demand::Below(names) => is_below(sql, value, names),
        Demand::NotAt(listed, but) => {
            let not = format!("NOT ({})", is_listed(sql, &domain, listed));
            if but.is_empty() { not } else { format!("({not} OR {})", is_below(sql, value, but)) }
        }
        Demand::NotNamed(words) => {
            let local = format!("lower({local})");
            let tag = sql.find("'+'", &sql.joined(&[&local, "'+'"]));
            format!("NOT ({})", sql.is_one_of(&format!("substr({local}, 1, {tag} - 1)"), words.iter()))
        }
        _ if sql == SqlDialect::Sqlite => sqlite_checks::expression(value, &local, &domain, condition)?,
        Demand::Matches(regex) => matches(sql, value, regex)?,
        Demand::Never(regex) => format!("NOT {}", matches(sql, value, regex)?),
        Demand::Where(place, regex) => {
            format!("(NOT {} OR {})", matches(sql, value, place)?, matches(sql, value, regex)?)
        }
    })
}

fn matches(sql: SqlDialect, value: &str, regex: &str) -> Option<String> {
    let (flavour, operator) = match sql {
        SqlDialect::Postgres => (Flavour::Postgres, "~"),
        _ => (Flavour::Pcre, "REGEXP"),
    };
    Some(format!("({value} {operator} {})", sql.text(&flavour.write(regex)?)))
}

/// The local part and the domain of `value`, as it stands.
fn parts(sql: SqlDialect, value: &str) -> (String, String) {
    (sql.before_at(value), format!("substr({value}, {} + 1)", sql.find("'@'", value)))
}

/// Whether the domain is one of `names` or lies below one.
fn is_below(sql: SqlDialect, value: &str, names: &[String]) -> String {
    let (endings, longer): (Vec<&String>, Vec<&String>) = names.iter().partition(|name| !name.contains('.'));
    let mut ways = Vec::new();
    if !endings.is_empty() {
        ways.push(sql.is_one_of(&format!("lower({})", sql.behind_last_dot(value)), endings.into_iter()));
    }
    for name in longer {
        let ends = |mark: char| format!("lower({value}) LIKE {}", sql.text(&format!("%{mark}{name}")));
        ways.extend([ends('@'), ends('.')]);
    }
    format!("({})", ways.join(" OR "))
}

/// Whether `domain` is one of `listed`, or lies below one that counts for those as well.
fn is_listed(sql: SqlDialect, domain: &str, listed: &[ListedDomain]) -> String {
    let domain = format!("lower({domain})");
    let mut ways = Vec::new();
    let alone: Vec<&String> =
        listed.iter().filter(|listed| !listed.below).map(|listed| &listed.name).collect();
    if !alone.is_empty() {
        ways.push(sql.is_one_of(&domain, alone.into_iter()));
    }
    let with_below: Vec<&String> =
        listed.iter().filter(|listed| listed.below).map(|listed| &listed.name).collect();
    if !with_below.is_empty() {
        ways.push(sql.is_one_of(&domain, with_below.iter().copied()));
        // What stands behind the first dot, the second and so on.
        let mut above = domain;
        for _ in 0..LEVELS {
            above = sql.behind_first_dot(&above);
            ways.push(sql.is_one_of(&above, with_below.iter().copied()));
        }
    }
    ways.join(" OR ")
}

/// So many labels may stand before a domain that counts for those below it.
const LEVELS: usize = 3;
