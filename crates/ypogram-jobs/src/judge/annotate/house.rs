//! Addresses held against the house's own formats.

use ypogram_core::Code;
use ypogram_io::Record;

use crate::judge::annotate::{Annotator, Part};
use crate::judge::house_clashes::HouseAddress;
use crate::judge::select_address::{Candidates, SelectedAddress};

impl Annotator<'_> {
    /// Holds the address of a record against the format of the house for its domain; what does not fit is a finding.
    pub(super) fn hold_against_house<'c>(
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
        // A local part in quotes may have an @ as well.
        let is_one = |local: &str| selected.judged.has_standard_form || !local.contains('@');
        let Some((_, domain)) = address.rsplit_once('@').filter(|(local, _)| is_one(local)) else {
            return;
        };
        let Some(format) = self.house.format_for(domain.as_bytes(), plan) else { return };
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
    pub(super) fn gather_house_address(&self, record: Record<'_>, part: &mut Part) {
        let Some(verdict) = &self.house.verdict else { return };
        let record = record.index();
        if verdict.fits() {
            part.own_house.push((self.hasher.hash_short(self.picker.judge.address()), record as u32));
        } else if let Some(address) = verdict.proposal.clone() {
            part.house.push(HouseAddress {
                hash: self.hasher.hash_short(address.as_bytes()),
                record,
                address,
            });
        }
    }
}
