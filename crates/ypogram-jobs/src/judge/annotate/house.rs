//! Addresses held against the house's own formats.

use std::collections::HashMap;

use ypogram_core::Code;
use ypogram_core::house_format::HouseVerdict;
use ypogram_io::Record;

use crate::judge::annotate::{Annotator, Part};
use crate::judge::house_clashes::HouseAddress;
use crate::judge::select_address::{Candidates, SelectedAddress};
use crate::judge::tally::Tally;

/// What is known of the record in hand, and which format each domain has.
#[derive(Default)]
pub(super) struct HeldAgainstHouse {
    pub(super) verdict: Option<HouseVerdict>,
    by_domain: HashMap<Box<str>, Option<usize>>,
}

/// Domains that are remembered at most.
const MOST_DOMAINS: usize = 1 << 16;

impl Annotator<'_> {
    /// Holds the address of a record against the format of the house for its domain; what does not fit is a finding.
    #[inline]
    pub(super) fn hold_against_house<'c>(
        &mut self,
        selected: &mut SelectedAddress,
        record: Record<'c>,
        candidates: &Candidates<'c>,
        tally: &mut Tally,
    ) {
        if self.wanted.house.is_some() {
            self.hold_against_formats(selected, record, candidates);
            if let Some(verdict) = &self.house.verdict {
                tally.house[0] += u64::from(verdict.fits());
                verdict.parts().for_each(|part| tally.house[1 + part as usize] += 1);
            }
        }
    }

    fn hold_against_formats<'c>(
        &mut self,
        selected: &mut SelectedAddress,
        record: Record<'c>,
        candidates: &Candidates<'c>,
    ) {
        self.house.verdict = None;
        let Some(plan) = &self.wanted.house else { return };
        let judge = &self.picker.judge;
        let address = match selected.judged.has_standard_form {
            true => judge.address(),
            false => &*candidates[selected.candidate].found.text,
        };
        let Ok(address) = std::str::from_utf8(address) else { return };
        let Some((_, domain)) = address.rsplit_once('@').filter(|(local, _)| !local.contains('@')) else {
            return;
        };
        let format = match self.house.by_domain.get(domain) {
            Some(format) => *format,
            None => {
                let format = plan.formats.for_domain(&domain.to_lowercase());
                if self.house.by_domain.len() < MOST_DOMAINS {
                    self.house.by_domain.insert(domain.into(), format);
                }
                format
            }
        };
        let Some(format) = format else { return };
        let person = plan.person(format, record, self.picker.plan());
        let verdict = plan.formats.formats[format].judge(address, &person);
        let policy = judge.policy();
        for (code, is_found) in [(Code::HouseFormat, !verdict.fits()), (Code::ShortName, verdict.short_name)]
        {
            if is_found {
                selected.codes = policy.in_force(selected.codes.with(code));
            }
        }
        selected.verdict = policy.verdict(selected.codes);
        self.house.verdict = Some(verdict);
    }

    /// Gathers the address that the record in hand has or would have by the house's format.
    pub(super) fn gather_house_address(&self, record: Record<'_>, has_address: bool, part: &mut Part) {
        let Some(verdict) = self.house.verdict.as_ref().filter(|_| has_address) else { return };
        let own = || String::from_utf8_lossy(self.picker.judge.address()).into_owned();
        let address = if verdict.fits() { Some(own()) } else { verdict.proposal.clone() };
        let (record, is_proposal) = (record.index(), !verdict.fits());
        part.house.extend(address.map(|address| HouseAddress { record, address, is_proposal }));
    }
}
