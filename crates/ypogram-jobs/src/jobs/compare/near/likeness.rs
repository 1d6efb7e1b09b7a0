//! In what two records are like one another, and whether that is enough to ask whether they are of one person.

use ypogram_core::names;

use crate::judge::contact_values::{TELEPHONE, is_same_number, street, telephones};

/// What a record says of its person, as it stands there.
#[derive(Clone, Debug, Default)]
pub(crate) struct Traits {
    pub(crate) name: String,
    pub(crate) telephone: String,
    pub(crate) street: String,
    pub(crate) address: String,
}

/// The same, brought to the forms that are compared.
#[derive(Clone, Debug)]
pub(super) struct Compared {
    name: Vec<String>,
    telephones: Vec<String>,
    street: Vec<String>,
    local_part: String,
    domain: String,
}

/// Letters of a local part that say something of a person, at least.
const LOCAL_PART: usize = 5;

impl Compared {
    pub(super) fn of(traits: &Traits) -> Self {
        let address = traits.address.to_lowercase();
        let (local_part, domain) = address.rsplit_once('@').unwrap_or((&address, ""));
        let is_word_of_address = |c: char| !c.is_whitespace() && !"<>(),;:\"".contains(c);
        let last = |text: &str| text.rsplit(|c| !is_word_of_address(c)).next().unwrap_or_default().to_owned();
        let first = |text: &str| text.split(|c| !is_word_of_address(c)).next().unwrap_or_default().to_owned();
        Compared {
            // O'Neil is ONeil.
            name: names::words(&traits.name.replace(['\'', '’'], "")),
            telephones: telephones(&traits.telephone),
            street: street(&traits.street),
            local_part: last(local_part),
            domain: first(domain),
        }
    }

    /// The texts by which records are brought together to be compared: those that share one.
    pub(super) fn shared_texts(&self) -> Vec<String> {
        let mut texts = Vec::new();
        if self.name.len() > 1 {
            let mut words = self.name.clone();
            words.sort_unstable();
            texts.push(format!("n{}", words.join(" ")));
        }
        texts
            .extend(self.telephones.iter().map(|digits| format!("t{}", &digits[digits.len() - TELEPHONE..])));
        if self.street.len() > 1 {
            texts.push(format!("s{}", self.street.join(" ")));
        }
        if self.local_part.chars().count() >= LOCAL_PART {
            texts.push(format!("l{}", self.local_part));
        }
        texts
    }

    /// In what both are like one another; none where that is not enough.
    pub(super) fn evidence(&self, other: &Compared) -> Option<Vec<&'static str>> {
        let name = name_likeness(&self.name, &other.name);
        let telephone =
            self.telephones.iter().any(|one| other.telephones.iter().any(|two| is_same_number(one, two)));
        let street = street_likeness(&self.street, &other.street);
        let address = self.address_likeness(other);
        let mut evidence = Vec::new();
        evidence.extend(match name {
            NameLikeness::Same => Some("same-name"),
            NameLikeness::Close => Some("close-name"),
            NameLikeness::Unknown | NameLikeness::Other => None,
        });
        evidence.extend(telephone.then_some("same-telephone"));
        evidence.extend(street);
        evidence.extend(address);
        let is_enough = match name {
            // Who shares a telephone or a house is a household, not one person.
            NameLikeness::Other => false,
            NameLikeness::Same if self.name.len() > 1 => true,
            _ => evidence.len() > 1 || telephone || address == Some("close-domain"),
        };
        is_enough.then_some(evidence)
    }

    fn address_likeness(&self, other: &Compared) -> Option<&'static str> {
        if self.local_part.chars().count() < LOCAL_PART || other.local_part.is_empty() {
            return None;
        }
        let one_slip = |one: &str, two: &str| strsim::damerau_levenshtein(one, two) == 1;
        match (self.local_part == other.local_part, self.domain == other.domain) {
            (true, true) => Some("same-address"),
            (true, false) if one_slip(&self.domain, &other.domain) => Some("close-domain"),
            (true, false) => Some("same-local-part"),
            (false, true) if one_slip(&self.local_part, &other.local_part) => Some("close-local-part"),
            _ => None,
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum NameLikeness {
    /// The same words.
    Same,
    /// Each word of the shorter is one of the longer, an initial, a beginning or one slip aside.
    Close,
    /// One has no name.
    Unknown,
    /// Two persons.
    Other,
}

fn name_likeness(one: &[String], other: &[String]) -> NameLikeness {
    let (shorter, longer) = if one.len() <= other.len() { (one, other) } else { (other, one) };
    if shorter.is_empty() {
        return NameLikeness::Unknown;
    }
    let mut left: Vec<&String> = longer.iter().collect();
    let (mut equal, mut whole_words) = (0, 0);
    let mut unlike: Vec<&String> = Vec::new();
    for word in shorter {
        match left.iter().position(|other| *other == word) {
            Some(place) => {
                left.swap_remove(place);
                equal += 1;
                whole_words += usize::from(word.chars().count() > 1);
            }
            None => unlike.push(word),
        }
    }
    for word in &unlike {
        let Some(place) = left.iter().position(|other| is_close(word, other)) else {
            return NameLikeness::Other;
        };
        left.swap_remove(place);
        whole_words += usize::from(word.chars().count() > 1);
    }
    match (equal == shorter.len() && left.is_empty(), whole_words) {
        (true, _) => NameLikeness::Same,
        (false, 0) => NameLikeness::Unknown,
        _ => NameLikeness::Close,
    }
}

/// Whether one word is an initial of the other, the beginning of it, or one slip from it.
fn is_close(one: &str, other: &str) -> bool {
    let (one, other) = if one.len() <= other.len() { (one, other) } else { (other, one) };
    let letters = one.chars().count();
    let begins = other.starts_with(one) && (letters == 1 || letters > 2);
    begins || letters > 3 && strsim::damerau_levenshtein(one, other) == 1
}

/// How alike two streets are: the same words, or at most two slips apart at the same number.
fn street_likeness(one: &[String], other: &[String]) -> Option<&'static str> {
    let is_number = |word: &&String| word.starts_with(|c: char| c.is_ascii_digit());
    let numbers = |words: &[String]| words.iter().filter(is_number).cloned().collect::<Vec<_>>();
    if one.len() < 2 || other.len() < 2 || numbers(one).is_empty() || numbers(one) != numbers(other) {
        return None;
    }
    let (one, other) = (one.join(""), other.join(""));
    match strsim::damerau_levenshtein(&one, &other) {
        0 => Some("same-street"),
        1 | 2 if one.len().min(other.len()) > 7 => Some("close-street"),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Name, telephone, street and address of a record.
    fn compared([name, telephone, street, address]: [&str; 4]) -> Compared {
        let [name, telephone, street, address] = [name, telephone, street, address].map(str::to_owned);
        Compared::of(&Traits { name, telephone, street, address })
    }

    #[test]
    fn what_is_enough_for_a_proposal() {
        for (one, other, evidence) in [
            (["Ada Lovell", "", "", ""], ["LOVELL, Ada", "", "", ""], "same-name"),
            (["A. Lovell", "", "", ""], ["Ada Lovell", "", "", ""], ""),
            (["Ada", "", "", ""], ["Ada", "", "", ""], ""),
            (
                ["A. Lovell", "01632 960413", "", ""],
                ["Ada Lovell", "+44 (0)1632 960413", "", ""],
                "close-name same-telephone",
            ),
            (
                ["Ada Lovel", "", "3 Mill Road", ""],
                ["Ada Lovell", "", "3, Mill Rd.", ""],
                "close-name same-street",
            ),
            (
                ["Ada Lovell", "", "Mühlenstraße 3a", ""],
                ["ada lovell", "", "Muhlenstr. 3a", ""],
                "same-name same-street",
            ),
            (["Ada Lovell", "", "Mill Road 3", ""], ["ada lovell", "", "5 Mill Road", ""], "same-name"),
            (
                ["Tiff Lovell", "", "17 Orchard Lane", ""],
                ["Tiffany Lovell", "", "17 Orchrad Ln", ""],
                "close-name close-street",
            ),
            // A household.
            (
                ["Ada Lovell", "960 4131", "3 Mill Road", ""],
                ["Bea Lovell", "960 4131", "3 Mill Road", ""],
                "",
            ),
            (["", "960 4131", "", ""], ["Bea Lovell", "960 4131 or 960 4132", "", ""], "same-telephone"),
            (["", "", "3 Mill Road", ""], ["", "", "3 Mill Road", ""], ""),
            // Seven digits that end alike, and a country that is none.
            (["", "111119604131", "", ""], ["", "9604131", "", ""], ""),
            (["", "4131", "", ""], ["", "4131", "", ""], ""),
            (["", "", "", "ada.lovell@gmail.com"], ["", "", "", "Ada.Lovell@gmial.com"], "close-domain"),
            (["", "", "", "ada.lovell@gmail.com"], ["", "", "", "ada.lovell@mill.example"], ""),
            (
                ["", "", "3 Mill Rd", "ada.lovell@gmail.com"],
                ["", "", "3 mill road", "ada.lovell@mill.example"],
                "same-street same-local-part",
            ),
            (
                ["A Lovell", "", "", "ada.lovel@mill.example"],
                ["Ada Lovell", "", "", "ada.lovell@mill.example"],
                "close-name close-local-part",
            ),
            (["Bea", "", "", "ada.lovell@gmail.com"], ["Ada", "", "", "ada.lovell@gmial.com"], ""),
            (["", "", "", ""], ["", "", "", ""], ""),
        ] {
            let (one, other) = (compared(one), compared(other));
            let found = |one: &Compared, other| one.evidence(other).unwrap_or_default().join(" ");
            assert_eq!(found(&one, &other), evidence, "{one:?} {other:?}");
            assert_eq!(found(&other, &one), evidence, "{other:?} {one:?}");
        }
    }
}
