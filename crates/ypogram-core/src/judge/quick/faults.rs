//! Addresses that are at fault (fast path): only which faults those are is asked, not where and in what words.
//!
//! The rules are those of the full examination, whose findings go to a set of codes here: no sentence, no place, no heap. What
//! needs more than the syntax is left to the full examination, and so is an address whose faults are let pass.

use crate::characters::labels::Labels;
use crate::judge::facts::{DomainFacts, Fact};
use crate::judge::grammar::smtp;
use crate::judge::no_address;
use crate::judge::quick::{Judge, LONGEST};
use crate::judge::summary::Summary;
use crate::model::codes::{Code, CodeSet};
use crate::model::grammar_choice::Grammar;
use crate::model::repair::Repairs;
use crate::syntax::{domain, local_part};

/// As many bytes a local part has at most (§4.5.3.1.1).
const LONGEST_LOCAL: usize = 64;

impl Judge<'_> {
    /// Judges `text` where its syntax keeps it from being an address; none where there is anything else about it. Afterwards there
    /// is no address in hand.
    pub(super) fn faulty(&mut self, text: &[u8]) -> Option<Summary> {
        if self.policy.grammar != Grammar::Smtp || text.len() > LONGEST {
            return None;
        }
        let (mut codes, mut facts) = (CodeSet::EMPTY, DomainFacts::default());
        match smtp::cut(text) {
            None => codes.insert(no_address::code(text)),
            Some(cut) if cut.local.len() > LONGEST_LOCAL => return None,
            Some(cut) => {
                if cut.second_at.is_some() {
                    codes.insert(Code::SeveralAtSigns);
                }
                local_part::check(cut.local.of(text), 0, &mut codes);
                facts = self.faults_of_domain(cut.domain.of(text), &mut codes)?;
            }
        }
        // One that is let pass does not keep others from being found.
        if codes.is_empty() || !self.all_keep_from_writing(codes) {
            return None;
        }
        self.hold_nothing(facts);
        Some(Summary {
            codes,
            verdict: self.policy.verdict(codes),
            class: facts.class(),
            certainty: facts.certainty(),
            operator: facts.operator,
            repairs: Repairs::NONE,
            has_standard_form: false,
        })
    }

    fn all_keep_from_writing(&self, codes: CodeSet) -> bool {
        codes.iter().all(|code| self.policy.keeps_from_writing(code))
    }

    /// Adds the faults of the domain to `codes`, and gives what else there is of it; none where more has to be looked at.
    fn faults_of_domain(&mut self, text: &[u8], codes: &mut CodeSet) -> Option<DomainFacts> {
        let mut lower = [0; LONGEST];
        let lower = &mut lower[..text.len()];
        lower.copy_from_slice(text);
        lower.make_ascii_lowercase();
        if Labels::of(lower).is_plain() {
            let facts = self.domains.facts(lower, self.policy);
            if let Some(fault) = facts.name_fault() {
                codes.insert(fault.code());
            }
            return (!facts.needs_a_closer_look()).then_some(facts);
        }
        let mut faults = CodeSet::EMPTY;
        match text.first() {
            None => faults.insert(Code::EmptyDomain),
            // A literal.
            Some(b'[') => return None,
            Some(_) => domain::check(text, 0, &mut faults),
        }
        *codes = codes.union(faults);
        let is_faulty = !faults.is_empty() && self.all_keep_from_writing(faults);
        is_faulty.then(|| DomainFacts::default().with(Fact::Faulty, true))
    }
}
