//! Which TLDs of domains there are, as whoever looks at a text knows it.

use crate::characters::idna_form;
use crate::characters::labels::Labels;
use crate::data::reserved;
use crate::find::text::usual::Usual;
use crate::judge::facts;
use crate::judge::quick::Judge;
use crate::judge::summary_key::SummaryKey;
use crate::judge::typos;
use crate::policy::job_policy::Policy;

/// Tells which TLDs count.
pub(super) trait TldLookup {
    /// The policy of the job.
    fn policy(&self) -> &Policy;

    /// Whether `domain`, as it is written, has a TLD of the root zone or one that the job trusts. Its characters are of
    /// the classes `seen`.
    fn are_known(&mut self, domain: &[u8], seen: u16) -> bool;

    /// Whether `domain`, as it is written in ASCII, is likely a typing slip of another.
    fn are_slip(&self, domain: &[u8]) -> bool;

    /// Fetches ahead what is known of the domain of `usual`.
    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s>;

    /// What an address has in common with others whose TLD counts and of which nothing else has to be asked.
    fn judge_at_once(&mut self, usual: &Usual<'_>) -> Option<SummaryKey>;
}

impl TldLookup for &Policy {
    fn policy(&self) -> &Policy {
        self
    }

    fn are_known(&mut self, domain: &[u8], _: u16) -> bool {
        has_known_tld(domain, self)
    }

    fn are_slip(&self, domain: &[u8]) -> bool {
        is_slip(domain, self)
    }

    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s> {
        usual
    }

    fn judge_at_once(&mut self, _: &Usual<'_>) -> Option<SummaryKey> {
        None
    }
}

impl TldLookup for Judge<'_> {
    fn policy(&self) -> &Policy {
        Judge::policy(self)
    }

    #[inline]
    fn are_known(&mut self, domain: &[u8], seen: u16) -> bool {
        self.knows_tld(domain, seen).unwrap_or_else(|| has_known_tld(domain, self.policy()))
    }

    fn are_slip(&self, domain: &[u8]) -> bool {
        is_slip(domain, self.policy())
    }

    #[inline]
    fn fetch<'s>(&self, usual: Usual<'s>) -> Usual<'s> {
        self.fetch_domain(usual)
    }

    #[inline(always)]
    fn judge_at_once(&mut self, usual: &Usual<'_>) -> Option<SummaryKey> {
        self.usual(usual)
    }
}

/// Whether the domain has a TLD of the root zone or one that the job trusts.
pub(super) fn has_known_tld(domain: &[u8], policy: &Policy) -> bool {
    let known = |ascii: &[u8]| facts::name_of(Labels::of(ascii), policy).has_known_tld(ascii);
    if domain.is_ascii() {
        let mut lower = [0; 256];
        let Some(lower) = lower.get_mut(..domain.len()) else { return false };
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        known(lower)
    } else {
        // Left-over invisible and full-width characters are undone as in a cell.
        let plain = crate::characters::decoded::decode(domain);
        let plain = plain.as_ref().map_or(domain, |decoded| &decoded.text);
        idna_form::ascii_of(plain).is_some_and(|ascii| known(ascii.as_bytes()))
    }
}

/// Whether the domain, whose TLD is unknown, is likely a typing slip.
fn is_slip(domain: &[u8], policy: &Policy) -> bool {
    let lower = domain.to_ascii_lowercase();
    reserved::find(&lower).is_none() && typos::is_slip_in_text(&lower, policy)
}
