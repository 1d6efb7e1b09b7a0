//! Characters outside letters, digits and signs that people copy or type without knowing, and that no entry may have.

/// Characters of one kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Characters {
    /// White space of all scripts.
    Spaces,
    /// What shows nothing, and copying leaves behind.
    Invisible,
    /// What turns the direction of writing.
    Directions,
    /// Letters of East Asian keyboards that stand for others.
    FullWidth,
    /// The quotation marks of word processors, and what no keyboard has.
    NoLetters,
}

impl Characters {
    /// Their ranges, first and last.
    pub const fn ranges(self) -> &'static [(char, char)] {
        match self {
            Characters::Spaces => &[
                ('\t', '\r'),
                (' ', ' '),
                ('\u{85}', '\u{85}'),
                ('\u{A0}', '\u{A0}'),
                ('\u{1680}', '\u{1680}'),
                ('\u{2000}', '\u{200A}'),
                ('\u{2028}', '\u{2029}'),
                ('\u{202F}', '\u{202F}'),
                ('\u{205F}', '\u{205F}'),
                ('\u{3000}', '\u{3000}'),
            ],
            Characters::Invisible => &[
                ('\u{AD}', '\u{AD}'),
                ('\u{34F}', '\u{34F}'),
                ('\u{61C}', '\u{61C}'),
                ('\u{180E}', '\u{180E}'),
                ('\u{200B}', '\u{200F}'),
                ('\u{2060}', '\u{2064}'),
                ('\u{FE00}', '\u{FE0F}'),
                ('\u{FEFF}', '\u{FEFF}'),
            ],
            Characters::Directions => &[('\u{202A}', '\u{202E}'), ('\u{2066}', '\u{2069}')],
            Characters::FullWidth => &[('\u{3002}', '\u{3002}'), ('\u{FF01}', '\u{FF61}')],
            Characters::NoLetters => &[
                ('\u{2018}', '\u{201F}'),
                ('\u{E000}', '\u{F8FF}'),
                ('\u{FDD0}', '\u{FDEF}'),
                ('\u{FFFE}', '\u{FFFF}'),
            ],
        }
    }

    /// The inside of a class of them in an expression, but for the space.
    pub(super) fn class_without_space(self) -> String {
        let ranges = self.ranges().iter().filter(|(first, _)| *first != ' ');
        ranges.map(|(first, last)| format!("\\u{{{:X}}}-\\u{{{:X}}}", *first as u32, *last as u32)).collect()
    }

    /// The inside of a class of them.
    pub(super) fn class(self) -> String {
        let space = if self == Characters::Spaces { " " } else { "" };
        self.class_without_space() + space
    }
}
