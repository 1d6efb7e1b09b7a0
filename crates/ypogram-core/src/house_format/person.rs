//! What a record says of its person, for one house format.

use crate::house_format::part::NameOf;
use crate::house_format::short_names;

/// What a record says of its person, each as it stands in local parts; none where it says nothing that can be compared.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct HousePerson {
    pub(super) given: Option<String>,
    pub(super) family: Option<String>,
    /// By the fields that the format names.
    pub(super) fields: Vec<Option<String>>,
}

impl HousePerson {
    pub(super) fn name(&self, of: NameOf) -> Option<&str> {
        match of {
            NameOf::Given => self.given.as_deref(),
            NameOf::Family => self.family.as_deref(),
        }
    }

    pub(super) fn field(&self, place: usize) -> Option<&str> {
        self.fields.get(place)?.as_deref()
    }

    /// Whether `text` is a short form of the given name: its beginning, of three letters at least, or one that is known.
    pub(super) fn is_short_form(&self, text: &str) -> bool {
        let Some(given) = &self.given else { return false };
        let is_beginning = text.len() > 2 && text.len() < given.len() && given.starts_with(text);
        is_beginning || short_names::is_short_for(text, given)
    }
}

/// The first `count` letters of a name, hyphens left out; the whole name where it has fewer.
pub(super) fn first_letters(name: &str, count: usize) -> String {
    name.chars().filter(|c| *c != '-').take(count).collect()
}
