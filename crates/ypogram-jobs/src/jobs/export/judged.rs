//! What the program itself says of an entry as it was typed: the reference that every place is held against.

use ypogram_core::entry_rule::{EntryRule, Wanted};
use ypogram_core::house_format::HouseFormat;
use ypogram_core::{Code, Pattern, Policy, Severity, Verdict};

use crate::judge::judged_address::JudgedAddress;
use crate::judge::selection::Selection;
use crate::plan::house::{BesideAddress, HouseFormats};
use crate::plan::house_pattern::{HousePattern, PatternOf};

/// How entries are judged.
#[derive(Clone, Debug)]
pub struct EntryJudge {
    policy: Policy,
    selection: Selection,
    house: HouseFormats,
    patterns: Vec<HousePattern>,
}

impl EntryJudge {
    /// A judge of entries as they are typed. What the house prescribes rejects here unless it is a note only, for nobody reviews an entry; so do
    /// findings that are not wanted.
    pub fn new(
        policy: &Policy,
        selection: Selection,
        house: HouseFormats,
        patterns: Vec<HousePattern>,
    ) -> Self {
        let mut policy = policy.clone();
        policy.as_typed = true;
        let of_house = [Code::HouseFormat, Code::Pattern].into_iter();
        let of_house = of_house.filter(|code| policy.severity(*code) == Severity::Review).collect::<Vec<_>>();
        for code in selection.unwanted_findings().chain(of_house) {
            policy.set_severity(code, Severity::Reject).expect("a finding may weigh more");
        }
        EntryJudge { policy, selection, house, patterns }
    }

    /// The rule that places get.
    pub fn rule(&self) -> EntryRule {
        let (patterns, without) = (self.patterns(), self.selection.unwanted_classes());
        let wanted = Wanted {
            without: &without,
            formats: self.formats(),
            everyone: self.house.everyone,
            patterns: &patterns,
        };
        EntryRule::new(&self.policy, &wanted)
    }

    /// How entries are judged.
    pub(super) fn policy(&self) -> &Policy {
        &self.policy
    }

    /// What is wanted.
    pub(super) fn selection(&self) -> &Selection {
        &self.selection
    }

    /// The house's formats.
    pub(super) fn formats(&self) -> &[HouseFormat] {
        &self.house.formats
    }

    /// The patterns.
    pub(super) fn patterns(&self) -> Vec<Pattern> {
        let in_standard_form = |pattern: &Pattern| {
            // There all letters are small.
            Pattern::new(&pattern.name, &pattern.written, pattern.is_whole(), true)
        };
        let one = |pattern: &HousePattern| match pattern.of {
            PatternOf::AsItStands => pattern.pattern.clone(),
            PatternOf::StandardForm => {
                in_standard_form(&pattern.pattern).unwrap_or_else(|_| pattern.pattern.clone())
            }
        };
        self.patterns.iter().map(one).collect()
    }

    /// The findings for which an entry is refused; none where it is taken. A value without any address has none, and is refused.
    pub fn refuses(&self, value: &str) -> Option<Vec<Code>> {
        let (policy, unwanted) = (&self.policy, self.selection.unwanted_classes());
        let beside = BesideAddress::default();
        let judged = JudgedAddress::all_in(value.as_bytes(), policy).into_iter().map(|(mut address, _)| {
            address.hold_against_patterns(value.as_bytes(), &self.patterns, policy);
            address.hold_against_house(&self.house, &beside, policy);
            address
        });
        // As for a record: the first that is accepted, else the first for review, else the first.
        let judged = judged.min_by_key(|address| address.verdict.map_or(3, |verdict| verdict as u8))?;
        let rejecting = |address: &JudgedAddress| {
            let findings = address.findings.iter().filter(|finding| finding.severity == Severity::Reject);
            findings.map(|finding| finding.code).collect::<Vec<_>>()
        };
        match judged.verdict {
            Some(Verdict::Reject) | None => Some(rejecting(&judged)),
            _ => {
                let class = judged.class.filter(|class| unwanted.contains(class));
                class.map(|class| class.code().into_iter().collect())
            }
        }
    }
}
