//! What a house format accepts, in plain words.

use crate::house_format::format::HouseFormat;
use crate::house_format::part::{Count, Piece, Sequence};
use crate::house_format::person::HousePerson;
use crate::house_format::sentence::{called, number};

/// What a house format accepts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Description {
    /// Each way to build an address: its pieces in plain words.
    pub ways: Vec<Vec<String>>,
    /// Persons, and the addresses that fit them.
    pub fitting: Vec<(String, String)>,
    /// Persons, addresses that nearly fit, and why they do not.
    pub failing: Vec<(String, String, String)>,
}

/// Persons of whom examples are made.
const PERSONS: [[&str; 2]; 3] = [["Zoë", "O’Neil"], ["Anna-Lena", "Müller"], ["Tiffany", "van der Berg"]];

/// Examples of each kind.
const EXAMPLES: usize = 3;

impl HouseFormat {
    /// What it accepts, with a few addresses that fit and a few that nearly do.
    ///
    /// ```
    /// use ypogram_core::house_format::{Fold, HouseFormat};
    /// let format = HouseFormat::new(r#"given(2) "." family "@fernhollow.example""#, Fold::Plain).unwrap();
    /// let description = format.describe();
    /// assert_eq!(description.ways[0][0], "the first two letters of the given name");
    /// assert_eq!(description.fitting[0].1, "zo.oneil@fernhollow.example");
    /// ```
    pub fn describe(&self) -> Description {
        let persons = PERSONS.map(|[given, family]| {
            let fields = vec!["117"; self.fields().len()];
            (format!("{given} {family}"), self.person(given, family, &fields))
        });
        let ways = self.sequences.iter().map(|sequence| self.words_of(sequence)).collect();
        let mut fitting = Vec::new();
        for (nth, (name, person)) in persons.iter().enumerate() {
            let sequence = &self.sequences[nth % self.sequences.len()];
            fitting.extend(built(sequence, person).map(|address| (name.clone(), address)));
        }
        let mut failing: Vec<(String, String, String)> = Vec::new();
        for (place, change) in CHANGES.iter().enumerate() {
            let (name, person) = &persons[place % persons.len()];
            let Some(address) = built(&self.sequences[0], person).and_then(|address| change(&address)) else {
                continue;
            };
            let verdict = self.judge(&address, person);
            if let Some(fault) = verdict.faults.first().filter(|_| failing.len() < EXAMPLES) {
                failing.push((name.clone(), address, fault.message.clone()));
            }
        }
        Description { ways, fitting, failing }
    }

    fn words_of(&self, sequence: &Sequence) -> Vec<String> {
        let words = |piece: &Piece| match piece {
            Piece::Literal(text) => called(text),
            Piece::Field(place) => format!("what the field ‘{}’ says", self.fields[*place]),
            Piece::Digits(count) => match (count.least, count.most) {
                (1, None) => "a number".to_owned(),
                (least, most) => {
                    format!("{} {}", amount(least, most), if most == Some(1) { "digit" } else { "digits" })
                }
            },
            Piece::Name(of, None) => format!("the {}", of.called()),
            Piece::Name(of, Some(Count { least, most })) => match (least, most) {
                (1, Some(1)) => format!("the first letter of the {}", of.called()),
                (least, most) => {
                    format!("the first {} letters of the {}", amount(*least, *most), of.called())
                }
            },
        };
        let domain = format!("the domain {}", sequence.domain);
        sequence.local.iter().map(words).chain([domain]).collect()
    }
}

fn amount(least: usize, most: Option<usize>) -> String {
    match most {
        Some(most) if most == least => number(least),
        Some(most) => format!("{} to {}", number(least), number(most)),
        None => format!("{} or more", number(least)),
    }
}

/// The address of a person that is built in this way, with some digits where it has a number.
fn built(sequence: &Sequence, person: &HousePerson) -> Option<String> {
    let mut text = String::new();
    let spans = sequence.local.iter().map(|piece| {
        let start = text.len();
        if let Piece::Digits(count) = piece {
            text.push_str(&"1234567890".repeat(7)[..count.least]);
        }
        start..text.len()
    });
    let spans: Vec<_> = spans.collect();
    crate::house_format::propose::propose(sequence, person, Some((&text, &spans)))
}

/// Makes one mistake in an address, where it can be made.
type Change = fn(&str) -> Option<String>;

/// The mistakes that people make most.
const CHANGES: [Change; 6] = [
    |address| {
        let signs: &[char] = &['.', '_', '-'];
        let (local, domain) = address.split_once('@')?;
        let at = local.find(signs)?;
        let sign = if local[at..].starts_with('.') { '_' } else { '.' };
        Some(format!("{}{sign}{}@{domain}", &local[..at], &local[at + 1..]))
    },
    |address| {
        let (local, domain) = address.split_once('@')?;
        let (first, last) = local.split_once(['.', '_'])?;
        Some(format!("{last}{}{first}@{domain}", &local[first.len()..=first.len()]))
    },
    |address| Some(address.replacen('@', "2@", 1)),
    |address| {
        let (local, domain) = address.split_once('@')?;
        let (second, sign) = domain.char_indices().nth(1)?;
        Some(format!("{local}@{}{}", &domain[..second], &domain[second + sign.len_utf8()..]))
    },
    |address| {
        let (local, domain) = address.split_once('@')?;
        let (last, _) = local.char_indices().next_back()?;
        Some(format!("{}@{domain}", &local[..last]))
    },
    |address| Some(format!("x{address}")),
];
