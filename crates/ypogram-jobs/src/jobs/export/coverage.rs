//! What a rule covers at its place: what it refuses, and where it differs from the program.

use serde::Serialize;
use ypogram_core::entry_rule::{Condition, EntryRule, RefusesToo};
use ypogram_core::{Code, Kind};

use crate::jobs::export::judged::EntryJudge;

/// What a rule covers at its place.
#[derive(Clone, Debug, Default, Serialize)]
pub struct Coverage {
    /// The findings that it refuses.
    pub refuses: Vec<String>,
    /// The findings that the program would refuse, and that it lets pass.
    pub lets_pass: Vec<Passing>,
    /// What it refuses although the program would take it.
    pub refuses_too: Vec<&'static str>,
    /// What would make places agree.
    pub advice: Vec<String>,
}

/// A finding that a place lets pass.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Passing {
    /// The finding.
    pub code: &'static str,
    /// Where it passes; everywhere where nothing is said.
    #[serde(skip_serializing_if = "str::is_empty")]
    pub only: &'static str,
    /// What the finding says.
    pub sentence: String,
}

impl Coverage {
    /// What `rule` covers at a place that cannot hold the conditions `without`, and refuses `too`.
    pub(super) fn of(rule: &EntryRule, without: &[String], too: &[RefusesToo], judge: &EntryJudge) -> Self {
        let policy = judge.policy();
        let is_held = |condition: &&Condition| !without.contains(&condition.name);
        let mut coverage = Coverage {
            refuses: Vec::new(),
            lets_pass: Vec::new(),
            refuses_too: rule.refuses_too().chain(too.iter().copied()).map(RefusesToo::words).collect(),
            advice: Vec::new(),
        };
        coverage.refuses_too.sort_unstable();
        coverage.refuses_too.dedup();
        for condition in rule.conditions.iter().filter(is_held) {
            let shown = match condition.name.strip_prefix("class-") {
                Some(class) => format!("the class {class}"),
                None => condition.code.name().to_owned(),
            };
            if !coverage.refuses.contains(&shown) {
                coverage.refuses.push(shown);
            }
        }
        let missing = rule.conditions.iter().filter(|condition| !is_held(condition));
        let missing = missing.map(|condition| {
            // Of a finding with several conditions the others are held.
            let is_part = rule.conditions.iter().filter(is_held).any(|held| held.code == condition.code);
            Passing {
                code: condition.code.name(),
                only: if is_part { "in part" } else { "" },
                sentence: condition.sentence.clone(),
            }
        });
        let unseen = rule.lets_pass().map(|passes| Passing {
            code: passes.code.name(),
            only: passes.only,
            sentence: policy.words.sentence(passes.code).to_owned(),
        });
        // What a condition on characters would see as well.
        let holds_characters = coverage.refuses.iter().any(|code| code == Code::CharacterNotAllowed.name());
        let others = Code::ALL.iter().filter(|code| {
            let is_held = holds_characters || coverage.refuses.iter().any(|held| held == code.name());
            let is_seen_in_characters = code.info().kind == Kind::Syntax || **code == Code::AddressLiteral;
            !is_held && is_seen_in_characters && policy.rejecting().contains(**code)
        });
        let others = others.map(|code| Passing {
            code: code.name(),
            only: "",
            sentence: policy.words.sentence(*code).to_owned(),
        });
        let held = Code::ALL.iter().filter(|code| coverage.refuses.iter().any(|held| held == code.name()));
        let outside = held.filter(|_| !holds_characters).map(|code| Passing {
            code: code.name(),
            only: "with characters outside ASCII",
            sentence: policy.words.sentence(*code).to_owned(),
        });
        for passing in missing.chain(others).chain(outside).chain(unseen) {
            // What passes everywhere needs no word about where else.
            let is_known =
                |known: &Passing| known.code == passing.code && ["", passing.only].contains(&known.only);
            if !coverage.lets_pass.iter().any(is_known) {
                coverage.lets_pass.push(passing);
            }
        }
        if !judge.selection().wants_unlisted() {
            coverage.advice.push(
                "the rulebook wants classes of listed domains only; domains that are on no list pass here"
                    .to_owned(),
            );
        }
        if policy.max_length.is_none() {
            coverage.advice.push(
                "the rulebook does not say how long the column is that keeps the addresses: with max-length under [standard-form] every \
                 place refuses what does not fit there, and not the database alone"
                    .to_owned(),
            );
        }
        coverage
    }

    /// What it lets pass: when, and which findings.
    pub fn passing(&self) -> Vec<(&'static str, Vec<&'static str>)> {
        let mut groups: Vec<(&str, Vec<&str>)> = Vec::new();
        for passing in &self.lets_pass {
            let only = if passing.only.is_empty() { "always" } else { passing.only };
            match groups.iter_mut().find(|(known, _)| *known == only) {
                Some((_, codes)) => codes.push(passing.code),
                None => groups.push((only, vec![passing.code])),
            }
        }
        groups
    }

    /// The same in lines of plain text.
    pub(super) fn lines(&self) -> Vec<String> {
        let mut lines = vec!["It refuses:".to_owned()];
        lines.extend(wrapped(&self.refuses.join(", ")));
        if !self.lets_pass.is_empty() {
            lines.push("It lets pass what the program would refuse:".to_owned());
            for (only, codes) in self.passing() {
                lines.extend(wrapped(&format!("{only}: {}", codes.join(", "))));
            }
        }
        if !self.refuses_too.is_empty() {
            lines.push("It refuses what the program would take:".to_owned());
            lines.extend(self.refuses_too.iter().flat_map(|words| wrapped(words)));
        }
        lines.extend(self.advice.iter().flat_map(|advice| wrapped(advice)));
        lines
    }
}

/// A text in lines of up to 100 characters, each behind two spaces.
fn wrapped(text: &str) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ') {
        match lines.last_mut().filter(|line| line.chars().count() + word.chars().count() < 100) {
            Some(line) => {
                line.push(' ');
                line.push_str(word);
            }
            None => lines.push(format!("  {word}")),
        }
    }
    lines
}
