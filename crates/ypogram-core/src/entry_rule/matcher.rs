//! The conditions, held against values here: what every place should do with them.

use regex::Regex;

use crate::entry_rule::condition::{Condition, Demand};
use crate::entry_rule::rule::EntryRule;

/// The conditions of a rule, ready to be held against values.
#[derive(Debug)]
pub struct EntryMatcher<'r> {
    conditions: Vec<(&'r Condition, Matching)>,
}

#[derive(Debug)]
enum Matching {
    Is(Regex),
    IsNot(Regex),
    Where(Regex, Regex),
}

impl<'r> EntryMatcher<'r> {
    /// The conditions of `rule`, as expressions. One that the crate `regex` finds too large is left out, as other engines would.
    pub fn new(rule: &'r EntryRule) -> Self {
        Self::without(rule, &[])
    }

    /// The same without the conditions of these names.
    pub fn without(rule: &'r EntryRule, names: &[String]) -> Self {
        let held = rule.conditions.iter().filter(|condition| !names.contains(&condition.name));
        let conditions = held.filter_map(|condition| Some((condition, matching(condition)?)));
        EntryMatcher { conditions: conditions.collect() }
    }

    /// The first condition that `value` does not fulfil.
    ///
    /// ```
    /// use ypogram_core::Policy;
    /// use ypogram_core::entry_rule::{EntryMatcher, EntryRule, Wanted};
    /// let rule = EntryRule::new(&Policy::default(), &Wanted::default());
    /// let matcher = EntryMatcher::new(&rule);
    /// assert!(matcher.refused_by("night.owl@quarryfarm.org").is_none());
    /// assert_eq!(matcher.refused_by("night.owl@quarryfarm.zzzz").unwrap().name, "unknown-tld");
    /// ```
    pub fn refused_by(&self, value: &str) -> Option<&'r Condition> {
        let fails = |matching: &Matching| match matching {
            Matching::Is(regex) => !regex.is_match(value),
            Matching::IsNot(regex) => regex.is_match(value),
            Matching::Where(place, regex) => place.is_match(value) && !regex.is_match(value),
        };
        self.conditions.iter().find(|(_, matching)| fails(matching)).map(|(condition, _)| *condition)
    }
}

fn matching(condition: &Condition) -> Option<Matching> {
    let regex = |text: &str| Regex::new(text).ok();
    Some(match condition.demand.as_expressions() {
        Demand::Matches(text) => Matching::Is(regex(&text)?),
        Demand::Never(text) => Matching::IsNot(regex(&text)?),
        Demand::Where(place, text) => Matching::Where(regex(&place)?, regex(&text)?),
        _ => return None,
    })
}
