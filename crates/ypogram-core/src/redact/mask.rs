//! Masks: some characters stay, so that people recognise what they know.

/// How values are masked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Mask {
    /// First and last characters that stay.
    pub keep: (usize, usize),
    /// So many signs for what is hidden; one for each character where there is none.
    pub run: Option<usize>,
    /// What becomes of the domain.
    pub domain: MaskDomain,
}

/// What becomes of the domain of a masked address.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum MaskDomain {
    /// It stays.
    #[default]
    Keep,
    /// Its class stands in its place.
    Class,
    /// It is hidden.
    Hide,
}

/// The sign that stands for a hidden character.
const SIGN: char = '*';

impl Default for Mask {
    fn default() -> Self {
        Mask { keep: (2, 2), run: None, domain: MaskDomain::Keep }
    }
}

impl Mask {
    /// An address with its local part masked; `class` is that of its domain.
    ///
    /// ```
    /// use ypogram_core::redact::{Mask, MaskDomain};
    /// let mask = Mask::default();
    /// assert_eq!(mask.address("ada.lovell", "fernhollow.org", "business"), "ad******ll@fernhollow.org");
    /// let by_class = Mask { run: Some(3), domain: MaskDomain::Class, ..mask };
    /// assert_eq!(by_class.address("ada", "gmail.com", "free"), "***@free");
    /// ```
    pub fn address(&self, local_part: &str, domain: &str, class: &str) -> String {
        let domain = match self.domain {
            MaskDomain::Keep => domain,
            MaskDomain::Class => class,
            MaskDomain::Hide => "***",
        };
        format!("{}@{domain}", self.value(local_part))
    }

    /// A value masked: one no longer than what would stay is hidden whole. Signs that may mean something where the value stands, such as
    /// quotation marks, never stay, nor do letters beyond ASCII.
    ///
    /// ```
    /// use ypogram_core::redact::Mask;
    /// assert_eq!(Mask::default().value("01632 960134"), "01********34");
    /// assert_eq!(Mask::default().value("Zoë"), "***");
    /// assert_eq!(Mask::default().value("Ådne Frost"), "*d******st");
    /// ```
    pub fn value(&self, value: &str) -> String {
        let count = value.chars().count();
        let (first, last) = self.keep;
        if count <= first + last {
            return self.hidden(count);
        }
        let shown = |c: char| if c.is_ascii_alphanumeric() || "._-+".contains(c) { c } else { SIGN };
        let start: String = value.chars().take(first).map(shown).collect();
        let end: String = value.chars().skip(count - last).map(shown).collect();
        format!("{start}{}{end}", self.hidden(count - first - last))
    }

    fn hidden(&self, characters: usize) -> String {
        std::iter::repeat_n(SIGN, self.run.unwrap_or(characters)).collect()
    }
}
