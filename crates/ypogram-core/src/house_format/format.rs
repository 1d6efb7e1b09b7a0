//! A house format, ready to hold addresses against.

use crate::house_format::align::{Alignment, align, has_short_form};
use crate::house_format::domain_fault::{self, DomainFault, OTHER};
use crate::house_format::error::FormatError;
use crate::house_format::fits::{Fit, fits};
use crate::house_format::fold::{Fold, folded};
use crate::house_format::part::{HousePart, NameOf, Piece, Sequence};
use crate::house_format::person::HousePerson;
use crate::house_format::propose::propose;
use crate::house_format::verdict::{HouseFault, HouseVerdict};
use crate::house_format::{notation, sentence, sequences};

/// How a house builds its addresses.
///
/// ```
/// use ypogram_core::house_format::{Fold, HouseFormat};
/// let format = HouseFormat::new(r#"given "." family "@fernhollow.example""#, Fold::Plain).unwrap();
/// let zoe = format.person("Zoë", "O’Neil", &[]);
/// assert!(format.judge("zoe.oneil@fernhollow.example", &zoe).fits());
/// let verdict = format.judge("oneil_zoe@fernhollow.example", &zoe);
/// assert_eq!(verdict.words(), "order separator");
/// assert_eq!(verdict.proposal.as_deref(), Some("zoe.oneil@fernhollow.example"));
/// ```
#[derive(Clone, Debug)]
pub struct HouseFormat {
    written: String,
    pub(super) sequences: Vec<Sequence>,
    /// The same with given name and family name the other way round, where a way has both.
    swapped: Vec<Option<Vec<Piece>>>,
    pub(super) fields: Vec<String>,
    fold: Fold,
}

/// What departures may cost, tried one after the other: one wrong sign or count, one mistake, a few, any.
const COSTS: [u32; 4] = [8, 12, 24, u32::MAX / 2];

/// What it costs that the names stand the other way round.
const SWAPPED: u32 = 9;

impl HouseFormat {
    /// The format that `written` describes.
    ///
    /// # Errors
    /// Where it is not in the notation, with the place.
    pub fn new(written: &str, fold: Fold) -> Result<Self, FormatError> {
        let notation = notation::read(written)?;
        let sequences = sequences::of(&notation, written)?;
        let swapped = sequences.iter().map(|sequence| swapped(&sequence.local)).collect();
        Ok(HouseFormat { written: written.to_owned(), sequences, swapped, fields: notation.fields, fold })
    }

    /// What was written.
    pub fn written(&self) -> &str {
        &self.written
    }

    /// The fields of a record that it names.
    pub fn fields(&self) -> &[String] {
        &self.fields
    }

    /// The domains of its addresses, in lower-case A-labels.
    pub fn domains(&self) -> impl Iterator<Item = &str> {
        self.sequences.iter().map(|sequence| &*sequence.domain)
    }

    /// The ways to build a local part at `domain`.
    pub(crate) fn locals_at<'f>(&'f self, domain: &'f str) -> impl Iterator<Item = &'f [Piece]> {
        let here = self.sequences.iter().filter(move |sequence| sequence.domain == domain);
        here.map(|sequence| &*sequence.local)
    }

    /// What a record says of its person: its names, empty where it has none, and what it has in [`fields`](Self::fields).
    pub fn person(&self, given: &str, family: &str, fields: &[&str]) -> HousePerson {
        HousePerson {
            given: folded(given, self.fold),
            family: folded(family, self.fold),
            fields: fields.iter().map(|value| folded(value, self.fold)).collect(),
        }
    }

    /// Whether an address at `domain` (lower-case A-labels) is meant to be one of the house: it is there, above or below, or looks like a slip of
    /// it.
    pub fn is_near(&self, domain: &str) -> bool {
        self.domains().any(|own| domain_fault::faults(domain, own).iter().all(|fault| fault.cost < OTHER))
    }

    /// What comes of holding `address`, in standard form with its domain in A-labels, against it.
    pub fn judge(&self, address: &str, person: &HousePerson) -> HouseVerdict {
        let (local, domain) = address.rsplit_once('@').unwrap_or((address, ""));
        let small;
        let local = match local.bytes().any(|b| b.is_ascii_uppercase() || !b.is_ascii()) {
            true => {
                small = local.to_lowercase();
                &*small
            }
            false => local,
        };
        let here = self.sequences.iter().filter(|sequence| sequence.domain == domain);
        let mut short_name = false;
        for sequence in here {
            match fits(&sequence.local, local, person) {
                Some(Fit::Whole) => return HouseVerdict::default(),
                Some(Fit::ShortName) => short_name = true,
                None => {}
            }
        }
        match short_name {
            true => HouseVerdict { short_name, ..HouseVerdict::default() },
            false => self.faults(local, domain, person),
        }
    }

    /// What is at fault in an address that fits no way.
    #[cold]
    fn faults(&self, local: &str, domain: &str, person: &HousePerson) -> HouseVerdict {
        if let Some(verdict) = self.usual_fault(local, domain, person) {
            return verdict;
        }
        let domain = OfDomain::new(domain, &self.sequences);
        if let Some(verdict) = self.fault_of_domain(local, &domain, person) {
            return verdict;
        }
        // Most departures are small, and what costs more need not be looked at for them.
        let nearest = COSTS.iter().find_map(|most| self.nearest(local, &domain, person, *most));
        let Some(nearest) = nearest else { return HouseVerdict::default() };
        let proposal = nearest.proposal(local, person);
        let proposal =
            proposal.or_else(|| self.sequences.iter().find_map(|sequence| propose(sequence, person, None)));
        HouseVerdict { faults: nearest.faults, short_name: nearest.short_name, proposal }
    }

    /// What people do most, told without an alignment, which would say the same: names the other way round, or other signs between the parts of an
    /// address that is right else.
    fn usual_fault(&self, local: &str, domain: &str, person: &HousePerson) -> Option<HouseVerdict> {
        let is_sign = |b: u8| b"._-+~".contains(&b);
        let knows_names = person.given.is_some() && person.family.is_some();
        for (sequence, swapped) in self.sequences.iter().zip(&self.swapped) {
            let Some(pieces) = swapped.as_ref().filter(|_| knows_names && sequence.domain == domain) else {
                continue;
            };
            if fits(pieces, local, person) == Some(Fit::Whole)
                && let Some(proposal) = propose(sequence, person, None)
            {
                let faults = vec![other_way_round(pieces, local)];
                return Some(HouseVerdict { faults, short_name: false, proposal: Some(proposal) });
            }
        }
        // Signs within a longer text are no separators.
        let is_plain = |piece: &Piece| match piece {
            Piece::Literal(text) => text.len() == 1 || !text.bytes().any(is_sign),
            _ => true,
        };
        let here = self.sequences.iter().filter(|sequence| sequence.domain == domain);
        for sequence in here.filter(|sequence| sequence.local.iter().all(is_plain)) {
            // A hyphen may be one of a name.
            let Some(right) = propose(sequence, person, None).filter(|right| !right.contains('-')) else {
                continue;
            };
            let wanted = &right[..right.len() - domain.len() - 1];
            let is_like = wanted.len() == local.len()
                && wanted
                    .bytes()
                    .zip(local.bytes())
                    .all(|(one, other)| one == other || is_sign(one) && is_sign(other));
            if !is_like {
                continue;
            }
            let differing = (0..local.len()).filter(|at| wanted.as_bytes()[*at] != local.as_bytes()[*at]);
            let faults = differing.map(|at| {
                let piece = Piece::Literal(wanted[at..=at].to_owned());
                let message = sentence::of_piece(&piece, &local[at..=at], person);
                HouseFault { part: HousePart::Separator, span: at..at + 1, message }
            });
            return Some(HouseVerdict { faults: faults.collect(), short_name: false, proposal: Some(right) });
        }
        None
    }

    /// The fault of an address whose local part is right for the domain that its own is most like: an alignment would cost nothing.
    fn fault_of_domain(&self, local: &str, domain: &OfDomain, person: &HousePerson) -> Option<HouseVerdict> {
        let cost = |nth: usize| domain.of(nth).iter().map(|fault| fault.cost).sum::<u32>();
        let least = (0..self.sequences.len()).map(cost).min()?;
        let mut nearest = (0..self.sequences.len()).filter(|nth| cost(*nth) == least);
        let nth = nearest.find(|nth| fits(&self.sequences[*nth].local, local, person) == Some(Fit::Whole))?;
        // A number has to be taken from the address at hand.
        let proposal = propose(&self.sequences[nth], person, None)?;
        let faults = domain.faults_behind(local, nth);
        Some(HouseVerdict { faults, short_name: false, proposal: Some(proposal) })
    }

    /// The way from which the address departs least, where that costs `most` at most.
    fn nearest(
        &self,
        local: &str,
        domain: &OfDomain,
        person: &HousePerson,
        mut most: u32,
    ) -> Option<Departure<'_>> {
        let mut nearest = None;
        for (nth, (sequence, swapped)) in self.sequences.iter().zip(&self.swapped).enumerate() {
            for (pieces, is_swapped) in
                std::iter::once((&sequence.local, false)).chain(swapped.iter().map(|pieces| (pieces, true)))
            {
                let departure =
                    Departure::of((nth, sequence, pieces), (local, domain), person, (is_swapped, most));
                if let Some(departure) = departure {
                    // Of equal ones the first counts.
                    most = departure.cost.saturating_sub(1);
                    nearest = Some(departure);
                }
            }
        }
        nearest
    }

    /// The address that the house would give a person; none where it needs a name or number that is not known.
    ///
    /// ```
    /// use ypogram_core::house_format::{Fold, HouseFormat};
    /// let format = HouseFormat::new(r#"family "_" given(1) number? "@staff.fernhollow.example""#, Fold::German).unwrap();
    /// let person = format.person("Jürgen", "Müßig", &[]);
    /// assert_eq!(format.propose(&person).as_deref(), Some("muessig_j@staff.fernhollow.example"));
    /// ```
    pub fn propose(&self, person: &HousePerson) -> Option<String> {
        self.sequences.iter().find_map(|sequence| propose(sequence, person, None))
    }
}

/// What is wrong with the domain of an address, by the domains that are asked for.
struct OfDomain {
    bytes: usize,
    faults: Vec<Vec<DomainFault>>,
    /// For each way to build an address the place of those above.
    of_sequences: Vec<usize>,
}

impl OfDomain {
    fn new(domain: &str, sequences: &[Sequence]) -> Self {
        let (mut wanted, mut of_sequences): (Vec<&str>, _) = (Vec::new(), Vec::new());
        for sequence in sequences {
            let known = wanted.iter().position(|wanted| *wanted == sequence.domain);
            of_sequences.push(known.unwrap_or(wanted.len()));
            if known.is_none() {
                wanted.push(&sequence.domain);
            }
        }
        let faults = wanted.iter().map(|wanted| domain_fault::faults(domain, wanted)).collect();
        OfDomain { bytes: domain.len(), faults, of_sequences }
    }

    /// What is wrong with it for the way to build an address at place `nth`.
    fn of(&self, nth: usize) -> &[DomainFault] {
        &self.faults[self.of_sequences[nth]]
    }

    /// The same as faults of an address with the local part `local`.
    fn faults_behind(&self, local: &str, nth: usize) -> Vec<HouseFault> {
        let span = local.len() + 1..local.len() + 1 + self.bytes;
        let fault = |fault: &DomainFault| HouseFault {
            part: fault.part,
            span: span.clone(),
            message: fault.message.clone(),
        };
        self.of(nth).iter().map(fault).collect()
    }
}

/// How far an address is from one way to build it.
struct Departure<'s> {
    sequence: &'s Sequence,
    cost: u32,
    faults: Vec<HouseFault>,
    alignment: Alignment,
    short_name: bool,
}

impl<'s> Departure<'s> {
    /// The departure from `pieces`, where it costs `most` at most.
    fn of(
        (nth, sequence, pieces): (usize, &'s Sequence, &[Piece]),
        (local, domain): (&str, &OfDomain),
        person: &HousePerson,
        (swapped, most): (bool, u32),
    ) -> Option<Self> {
        let beside =
            domain.of(nth).iter().map(|fault| fault.cost).sum::<u32>() + if swapped { SWAPPED } else { 0 };
        let mut alignment = align(pieces, local, person, most.checked_sub(beside)?)?;
        let cost = alignment.cost + beside;
        let mut faults = std::mem::take(&mut alignment.faults);
        let short_name = has_short_form(&alignment, pieces, local, person);
        if swapped {
            faults.insert(0, other_way_round(pieces, local));
        }
        faults.extend(domain.faults_behind(local, nth));
        Some(Departure { sequence, cost, faults, alignment, short_name })
    }

    /// The same address as this way would build it.
    fn proposal(&self, local: &str, person: &HousePerson) -> Option<String> {
        propose(self.sequence, person, Some((local, &self.alignment.spans)))
    }
}

/// That the names of `pieces` stand the other way round than they are asked for.
fn other_way_round(pieces: &[Piece], local: &str) -> HouseFault {
    let (first, second) = match pieces.iter().find(|piece| matches!(piece, Piece::Name(..))) {
        Some(Piece::Name(NameOf::Given, _)) => ("given name", "family name"),
        _ => ("family name", "given name"),
    };
    let message = format!("The {first} stands before the {second}; it is asked for the other way round.");
    HouseFault { part: HousePart::Order, span: 0..local.len(), message }
}

/// The pieces with given name and family name the other way round.
fn swapped(pieces: &[Piece]) -> Option<Vec<Piece>> {
    let place =
        |wanted: NameOf| pieces.iter().position(|piece| matches!(piece, Piece::Name(of, _) if *of == wanted));
    let (given, family) = (place(NameOf::Given)?, place(NameOf::Family)?);
    let mut swapped = pieces.to_vec();
    swapped.swap(given, family);
    Some(swapped)
}
