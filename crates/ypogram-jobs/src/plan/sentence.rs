//! The words of a sentence on the command line, such as that of a cut.

/// A word.
pub(super) struct Word {
    pub(super) text: String,
    pub(super) quoted: bool,
}

impl Word {
    /// Whether it is that word, and not in quotation marks.
    pub(super) fn is(&self, text: &str) -> bool {
        !self.quoted && self.text == text
    }
}

/// The words of a sentence; commas, colons and equals signs are words of their own, and quoted ones mean nothing but themselves. None
/// where a quotation mark is not closed.
pub(super) fn words_of(sentence: &str) -> Option<Vec<Word>> {
    const SIGNS: [char; 3] = [',', ':', '='];
    let mut words = Vec::new();
    let mut rest = sentence.trim_start();
    while let Some(first) = rest.chars().next() {
        let (text, quoted, used) = match first {
            '"' => {
                let inner = &rest[1..];
                let close = inner.find('"')?;
                (&inner[..close], true, close + 2)
            }
            sign if SIGNS.contains(&sign) => (&rest[..1], false, 1),
            _ => {
                let end = rest.find(|c: char| c.is_whitespace() || c == '"' || SIGNS.contains(&c));
                let end = end.unwrap_or(rest.len());
                (&rest[..end], false, end)
            }
        };
        words.push(Word { text: text.to_owned(), quoted });
        rest = rest[used..].trim_start();
    }
    Some(words)
}

/// Words as one name, a space between them.
pub(super) fn joined(words: &[Word]) -> String {
    words.iter().map(|word| &*word.text).collect::<Vec<_>>().join(" ")
}
