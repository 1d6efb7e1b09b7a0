//! All conditions in one expression.

use crate::entry_rule::condition::{Condition, Demand};
use crate::entry_rule::flavour::Flavour;
use crate::entry_rule::rule::EntryRule;
use crate::entry_rule::syntax;
use crate::model::codes::Code;
use crate::model::grammar_choice::Grammar;
use crate::model::severity::Kind;

/// The end of a value in every engine.
const END: &str = "(?![\\s\\S])";

/// How much an expression says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Extent {
    /// Everything.
    Whole,
    /// No list of names, which are long.
    WithoutLists,
}

/// All conditions in one expression.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Expression {
    /// The expression, from the first character to the last.
    pub text: String,
    /// The names of the conditions that it does not hold.
    pub without: Vec<String>,
}

impl EntryRule {
    /// All conditions in one expression: what follows from the grammar as one sequence of parts, and the others looked for ahead of it.
    ///
    /// ```
    /// use ypogram_core::Policy;
    /// use ypogram_core::entry_rule::{EntryRule, Extent, Flavour, Wanted};
    /// let rule = EntryRule::new(&Policy::default(), &Wanted::default());
    /// let expression = rule.expression(Flavour::EcmaScript, Extent::WithoutLists);
    /// assert!(expression.text.starts_with("^(?=.{1,254}$)(?=.{1,64}@[^@]*$)"), "{}", expression.text);
    /// ```
    pub fn expression(&self, flavour: Flavour, extent: Extent) -> Expression {
        let mut without = Vec::new();
        let longest = self.longest.map_or_else(String::new, |bytes| format!("(?=.{{1,{bytes}}}$)"));
        let local = if self.grammar == Grammar::Html { "" } else { "(?=.{1,64}@[^@]*$)" };
        let mut text = format!("^{longest}{local}");
        for condition in self.conditions.iter().filter(|condition| !is_of_grammar(condition)) {
            let is_list =
                matches!(condition.demand, Demand::Below(_) | Demand::NotAt(..) | Demand::NotNamed(_));
            let ahead = (!is_list || extent == Extent::Whole).then(|| ahead(condition, flavour)).flatten();
            match ahead {
                Some(ahead) if flavour != Flavour::Pcre || compiled(&text) + compiled(&ahead) < MOST => {
                    text.push_str(&ahead);
                }
                _ => without.push(condition.name.clone()),
            }
        }
        let whole = flavour.write(&syntax::whole(self.grammar)).expect("every flavour says it");
        text.push_str(whole.trim_start_matches('^').trim_end_matches('$'));
        // Some engines take a line break for an end.
        text.push_str(END);
        Expression { text, without }
    }
}

/// Bytes that an expression may take once PCRE has compiled it, as most systems have it: 64 KiB with links of two bytes, and some room.
const MOST: usize = 60_000;

/// Bytes that PCRE takes for an expression, about.
fn compiled(text: &str) -> usize {
    let bytes = |b: u8| match b {
        b'|' => 3,
        b'(' => 6,
        b'[' => 40,
        _ => 2,
    };
    text.bytes().map(bytes).sum()
}

/// Whether the sequence of parts says it.
fn is_of_grammar(condition: &Condition) -> bool {
    let is_ahead = matches!(condition.code, Code::HyphensThirdFourth);
    condition.code == Code::OneLabelDomain || condition.code.info().kind == Kind::Syntax && !is_ahead
}

/// A condition, looked for ahead.
fn ahead(condition: &Condition, flavour: Flavour) -> Option<String> {
    let write = |regex: &str| {
        let text = flavour.write(regex)?;
        Some(match regex.starts_with('^') && !text.contains('|') {
            true => text,
            false => format!("[\\s\\S]*(?:{text})"),
        })
    };
    Some(match condition.demand.as_expressions() {
        Demand::Matches(regex) => format!("(?={})", write(&regex)?),
        Demand::Never(regex) => format!("(?!{})", write(&regex)?),
        Demand::Where(place, regex) => format!("(?:(?!{})|(?={}))", write(&place)?, write(&regex)?),
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use std::sync::LazyLock;

    use proptest::prelude::*;
    use regex::Regex;

    use super::*;
    use crate::entry_rule::matcher::EntryMatcher;
    use crate::entry_rule::wanted::Wanted;
    use crate::policy::job_policy::Policy;

    /// The conditions of a grammar, and the sequence of parts that says the same.
    struct Both {
        rule: EntryRule,
        sequence: Regex,
    }

    static BOTH: LazyLock<[Both; 2]> = LazyLock::new(|| {
        [Grammar::Smtp, Grammar::Html].map(|grammar| {
            let mut policy = Policy::default();
            policy.grammar = grammar;
            let mut rule = EntryRule::new(&policy, &Wanted::default());
            rule.conditions.retain(is_of_grammar);
            Both { rule, sequence: Regex::new(&syntax::whole(grammar)).unwrap() }
        })
    });

    proptest! {
        #[test]
        fn the_sequence_is_the_grammar(
            values in prop::collection::vec(
                "[ab.\"@ ,\\\\é＠_-]{0,12}|[a-c.é+']{1,6}@[a-c.é-]{1,8}|\"[a @.\\\\\"]{0,5}\"@[ab]{1,3}\\.org|a@[a-c0-9x-]{1,6}\\.[a-c]{1,3}",
                50,
            ),
        ) {
            for Both { rule, sequence } in &*BOTH {
                let matcher = EntryMatcher::new(rule);
                for value in &values {
                    let refused = matcher.refused_by(value).map(|condition| &condition.name);
                    prop_assert_eq!(sequence.is_match(value), refused.is_none(), "{:?} {:?}", value, refused);
                }
            }
        }
    }
}
