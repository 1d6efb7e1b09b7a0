//! Addresses that are seen in a text, judged on the way.

use crate::find::text::{Hit, JudgedMatch, Usual};
use crate::judge::facts::Fact;
use crate::judge::local_traits::Folded;
use crate::judge::quick::Judge;
use crate::judge::summary::Summary;
use crate::judge::summary_key::{SummaryFlag, SummaryKey};
use crate::model::same_mailbox::SameMailbox;

impl Judge<'_> {
    /// Judges what was found in a text: like [`judge`](Self::judge), without looking again at what was seen on the way, and with
    /// the findings that come from how it stands.
    pub fn judge_hit(&mut self, hit: &Hit<'_>) -> Summary {
        let mut judged = match hit.scan {
            Some(scan) => self.quick(&hit.text, scan).unwrap_or_else(|| self.otherwise(&hit.text)),
            None => self.judge(&hit.text),
        };
        if !hit.codes().is_empty() {
            judged.codes = self.policy().with_as_found(judged.codes, hit.codes());
            judged.verdict = self.policy().verdict(judged.codes);
        }
        judged
    }

    /// Takes the hash of the domain of `usual`, and fetches ahead what is known of it.
    #[inline]
    pub(crate) fn fetch_domain<'s>(&self, mut usual: Usual<'s>) -> Usual<'s> {
        usual.hash = self.domains.hash_in(usual.domain_and_behind(), usual.domain().len());
        self.domains.fetch(usual.hash);
        usual
    }

    /// Judges what may be an address among other words, where its TLD is in the root zone or trusted and nothing has to be
    /// looked at more closely: what it has in common with others. Afterwards the judge holds its standard form where it was
    /// written with capitals, and the hash of its domain.
    #[inline(always)]
    pub(crate) fn usual(&mut self, usual: &Usual<'_>) -> Option<SummaryKey> {
        let policy = self.policy();
        let (local_capitals, domain_capitals) = (usual.has_local_capitals(), usual.has_domain_capitals());
        let as_written = local_capitals && (self.keeps_case() || policy.same == SameMailbox::Exact);
        if !SummaryKey::is_sufficient_under(policy) || as_written || !usual.ends_in_a_label() {
            return None;
        }
        let (local, domain) = (usual.local_part(), usual.domain());
        let facts = self.domains.facts_by(usual.hash, domain, policy);
        if !facts.is(Fact::KnownTld) || !SummaryKey::is_sufficient_at(facts) {
            return None;
        }
        self.forget();
        if local_capitals || domain_capitals {
            self.hand.address.extend_from_slice(usual.address());
        }
        self.hand.domain_hash = usual.hash;
        let summary_key = SummaryKey::of(
            Folded { text: local, plus: usual.plus(), signs: usual.has_signs() },
            domain,
            facts,
            policy,
        );
        Some(
            summary_key
                .with(SummaryFlag::LocalCapitals, local_capitals)
                .with(SummaryFlag::DomainCapitals, domain_capitals),
        )
    }

    /// The key under the policy's rule of an address that was seen in a text and judged on the way, with `scratch` to write it to
    /// where it is not the standard form, which is `address`.
    #[inline]
    pub fn key_of_met<'a>(&self, met: JudgedMatch, address: &'a [u8], scratch: &'a mut Vec<u8>) -> &'a [u8] {
        let (facts, same) = (met.summary_key.facts(), self.policy().same);
        let (local, domain) = (&address[..met.at], &address[met.at + 1..]);
        if self.is_key(same, facts, domain, || met.plus, || met.dots) {
            return address;
        }
        scratch.clear();
        self.key_parts(local, domain, facts).write(same, scratch);
        scratch
    }
}
