//! What came of holding an address against a house format.

use std::ops::Range;

use crate::house_format::part::HousePart;

/// What came of holding an address against a house format.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct HouseVerdict {
    /// What is at fault; none where it fits.
    pub faults: Vec<HouseFault>,
    /// It has a short form of the given name.
    pub short_name: bool,
    /// The right address, where the names allow it; none where it fits.
    pub proposal: Option<String>,
}

impl HouseVerdict {
    /// Whether the address fits.
    pub fn fits(&self) -> bool {
        self.faults.is_empty()
    }

    /// The parts at fault, each once, in the order of [`HousePart::ALL`].
    pub fn parts(&self) -> impl Iterator<Item = HousePart> + '_ {
        HousePart::ALL.into_iter().filter(|part| self.faults.iter().any(|fault| fault.part == *part))
    }

    /// `fits`, or the words of the parts at fault, a space between them.
    pub fn words(&self) -> String {
        match self.fits() {
            true => "fits".to_owned(),
            false => self.parts().map(HousePart::word).collect::<Vec<_>>().join(" "),
        }
    }
}

/// One fault.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HouseFault {
    /// What is at fault.
    pub part: HousePart,
    /// Where it stands in the address, in bytes.
    pub span: Range<usize>,
    /// A sentence.
    pub message: String,
}
