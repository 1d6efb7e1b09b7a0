//! The rule for entries that follows from a policy.

use crate::entry_rule::condition::{Condition, Demand};
use crate::entry_rule::differences::{LetsPass, RefusesToo, unseen};
use crate::entry_rule::wanted::Wanted;
use crate::entry_rule::{domains, house, local_words, syntax};
use crate::model::class::Class;
use crate::model::codes::Code;
use crate::model::grammar_choice::Grammar;
use crate::model::severity::Severity;
use crate::policy::job_policy::Policy;

/// What an entry has to be.
#[derive(Clone, Debug)]
pub struct EntryRule {
    /// What is asked, in the order in which findings are told.
    pub conditions: Vec<Condition>,
    /// The most bytes that an entry may have.
    pub longest: Option<usize>,
    /// The grammar.
    pub grammar: Grammar,
    pub(super) lets_pass: Vec<LetsPass>,
    pub(super) refuses_too: Vec<RefusesToo>,
}

impl EntryRule {
    /// The rule of a job: it refuses what `policy` rejects in a value as it was typed, classes that are not wanted, and what does not fit the
    /// house's formats and patterns, unless these are notes only or switched off: at an entry nobody reviews.
    ///
    /// ```
    /// use ypogram_core::Policy;
    /// use ypogram_core::entry_rule::{EntryRule, Wanted};
    /// let rule = EntryRule::new(&Policy::default(), &Wanted::default());
    /// assert!(rule.conditions.iter().any(|condition| condition.name == "unknown-tld"));
    /// assert!(rule.lets_pass().any(|passes| passes.code.name() == "public-suffix"));
    /// ```
    pub fn new(policy: &Policy, wanted: &Wanted<'_>) -> Self {
        let house_length =
            policy.max_length.filter(|_| policy.severity(Code::TooLongForHouse) == Severity::Reject);
        let of_grammar = (policy.grammar != Grammar::Html).then_some(LONGEST);
        let longest = of_grammar.into_iter().chain(house_length).min();
        let mut rule = EntryRule {
            conditions: Vec::new(),
            longest,
            grammar: policy.grammar,
            lets_pass: Vec::new(),
            refuses_too: Vec::new(),
        };
        for (code, demand) in syntax::demands(policy.grammar, longest) {
            let is_house = code == Code::AddressTooLong && longest == house_length;
            rule.add(if is_house { Code::TooLongForHouse } else { code }, demand, policy);
        }
        for (code, demand) in syntax::demands_of_meaning() {
            rule.add(code, demand, policy);
        }
        rule.add(Code::ReservedName, domains::not_reserved(policy), policy);
        rule.add(Code::UnknownTld, domains::known_ending(policy), policy);
        for (code, demand) in local_words::demands() {
            rule.add(code, demand, policy);
        }
        for (code, name, domains) in domains::listed(policy, wanted) {
            let sentence = match name.strip_prefix("class-") {
                Some(class) if Class::from_word(class).and_then(Class::code).is_none() => {
                    format!("The domain is of a class that is not wanted here: {class}.")
                }
                _ => policy.words.sentence(code).to_owned(),
            };
            let demand = Demand::NotAt(domains, Vec::new());
            rule.conditions.push(Condition { code, name, sentence, demand });
        }
        // What the house prescribes is for review in a list; at an entry nobody reviews.
        for demand in house::formats(wanted.formats, wanted.everyone) {
            rule.add_asked(Code::HouseFormat, demand, policy);
        }
        if let Some(demand) = house::patterns(wanted.patterns.iter()) {
            rule.add_asked(Code::Pattern, demand, policy);
        }
        rule.lets_pass = unseen(&rule.conditions, policy);
        rule.refuses_too = RefusesToo::of(policy);
        rule
    }

    /// What the program rejects and the conditions let pass.
    pub fn lets_pass(&self) -> impl Iterator<Item = &LetsPass> {
        self.lets_pass.iter()
    }

    /// What the program takes and the conditions refuse.
    pub fn refuses_too(&self) -> impl Iterator<Item = RefusesToo> {
        self.refuses_too.iter().copied()
    }

    /// A condition on what has `code`, where that rejects.
    fn add(&mut self, code: Code, demand: Demand, policy: &Policy) {
        if policy.severity(code) == Severity::Reject {
            self.push(code, demand, policy);
        }
    }

    /// A condition on what has `code`, where that is more than a note.
    fn add_asked(&mut self, code: Code, demand: Demand, policy: &Policy) {
        if matches!(policy.severity(code), Severity::Reject | Severity::Review) {
            self.push(code, demand, policy);
        }
    }

    fn push(&mut self, code: Code, demand: Demand, policy: &Policy) {
        let same = self.conditions.iter().filter(|condition| condition.code == code).count();
        let name = if same == 0 { code.name().to_owned() } else { format!("{}-{}", code.name(), same + 1) };
        let sentence = policy.words.sentence(code).to_owned();
        self.conditions.push(Condition { code, name, sentence, demand });
    }
}

/// The most bytes of an address (RFC 5321 §4.5.3.1.3 with erratum 1690).
const LONGEST: usize = 254;
