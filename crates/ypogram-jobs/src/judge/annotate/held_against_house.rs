//! What came of holding an address against the house's formats, and which format each domain has.

use hashbrown::HashMap;
use ypogram_core::house_format::HouseVerdict;

use crate::plan::house::HousePlan;

/// What is known of the record in hand, and which format each domain has.
#[derive(Default)]
pub(super) struct HeldAgainstHouse {
    pub(super) verdict: Option<HouseVerdict>,
    by_domain: HashMap<Box<[u8]>, Option<usize>>,
    /// The domain that was looked up last, and its format: most addresses of a roster have one.
    last: (Box<[u8]>, Option<usize>),
}

/// Domains that are remembered at most.
const MOST_DOMAINS: usize = 1 << 16;

impl HeldAgainstHouse {
    /// The format that addresses at `domain` are held against, by place.
    #[inline]
    pub(super) fn format_for(&mut self, domain: &[u8], plan: &HousePlan) -> Option<usize> {
        if *self.last.0 != *domain {
            self.last = (domain.into(), self.look_up(domain, plan));
        }
        self.last.1
    }

    fn look_up(&mut self, domain: &[u8], plan: &HousePlan) -> Option<usize> {
        if let Some(format) = self.by_domain.get(domain) {
            return *format;
        }
        let format = plan.formats.for_domain(&String::from_utf8_lossy(domain).to_lowercase());
        if self.by_domain.len() < MOST_DOMAINS {
            self.by_domain.insert(domain.into(), format);
        }
        format
    }
}
