//! Addresses that are at fault as far as their letters go: only which faults those are is asked, not where and in what words.

use crate::characters::bytes::{self, ATEXT, DOT};
use crate::characters::labels::Labels;
use crate::judge::facts::{DomainFacts, Fact};
use crate::judge::judged::Judged;
use crate::judge::no_address;
use crate::judge::quick::{Judge, LONGEST};
use crate::model::codes::{Code, CodeSet};
use crate::model::grammar_choice::Grammar;
use crate::model::repair::Repairs;

/// As many bytes a local part has at most (§4.5.3.1.1).
const LONGEST_LOCAL: usize = 64;

impl Judge<'_> {
    /// Judges `text` where usual faults keep it from being an address: no @ or several, a misplaced dot, a space, a part that is missing,
    /// a domain without a usable name. None where there is anything else about it. Afterwards there is no address in hand.
    pub(super) fn faulty(&mut self, text: &[u8]) -> Option<Judged> {
        if self.policy.grammar != Grammar::Smtp || text.len() > LONGEST {
            return None;
        }
        let (codes, facts) = match memchr::memchr(b'@', text) {
            None => (CodeSet::EMPTY.with(no_address::code(text)), DomainFacts::default()),
            Some(first) => self.faults_beside(first, text)?,
        };
        // One that is let pass does not keep others from being found.
        let keep = !codes.is_empty() && codes.iter().all(|code| self.policy.keeps_from_writing(code));
        if !keep {
            return None;
        }
        self.hold_nothing(facts);
        Some(Judged {
            codes,
            verdict: self.policy.verdict(codes),
            class: facts.class(),
            certainty: facts.certainty(),
            operator: facts.operator,
            repairs: Repairs::NONE,
            has_standard_form: false,
        })
    }

    /// The faults in front of the first @, which stands at `first`, and behind the last, and what else there is of the domain.
    fn faults_beside(&mut self, first: usize, text: &[u8]) -> Option<(CodeSet, DomainFacts)> {
        let last = memchr::memrchr(b'@', text)?;
        let several = if last > first { CodeSet::EMPTY.with(Code::SeveralAtSigns) } else { CodeSet::EMPTY };
        let of_local = faults_of_local(&text[..first])?;
        let (of_domain, facts) = self.faults_of_domain(&text[last + 1..])?;
        Some((several.union(of_local).union(of_domain), facts))
    }

    fn faults_of_domain(&mut self, domain: &[u8]) -> Option<(CodeSet, DomainFacts)> {
        let only = |code| Some((CodeSet::EMPTY.with(code), DomainFacts::default().with(Fact::Faulty, true)));
        if domain.is_empty() {
            return only(Code::EmptyDomain);
        }
        let mut lower = [0; LONGEST];
        let lower = &mut lower[..domain.len()];
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        if is_plain(lower) {
            let facts = self.domains.facts(lower, self.policy);
            if facts.needs_a_closer_look() {
                return None;
            }
            return Some((
                facts.name_fault().map_or(CodeSet::EMPTY, |fault| CodeSet::EMPTY.with(fault.code())),
                facts,
            ));
        }
        if lower.strip_suffix(b".").is_some_and(is_plain) {
            return only(Code::TrailingDot);
        }
        // Where letters in place of the spaces leave nothing at fault, nothing else is.
        let spaces = lower.iter().filter(|&&b| b == b' ').count();
        lower.iter_mut().filter(|b| **b == b' ').for_each(|b| *b = b'a');
        if spaces > 0 && is_plain(lower) { only(Code::SpaceInside) } else { None }
    }
}

/// The faults of a local part of *atext*, dots and spaces (RFC 5321 §4.1.2); none where it has other characters, or is too long.
fn faults_of_local(local: &[u8]) -> Option<CodeSet> {
    if local.len() > LONGEST_LOCAL || !local.iter().all(|&b| b == b' ' || bytes::is(b, ATEXT | DOT)) {
        return None;
    }
    let double = local.windows(2).any(|pair| pair == b"..");
    let faults = [
        (local.is_empty(), Code::EmptyLocalPart),
        (local.first() == Some(&b'.') || local.last() == Some(&b'.'), Code::DotAtEdge),
        (double, Code::DoubleDot),
        (local.contains(&b' '), Code::SpaceInside),
    ];
    let met = faults.into_iter().filter(|(is_met, _)| *is_met);
    Some(met.fold(CodeSet::EMPTY, |codes, (_, code)| codes.with(code)))
}

/// Whether a domain has nothing at fault but its name, if anything.
fn is_plain(domain: &[u8]) -> bool {
    Labels::of(domain).is_plain()
}
