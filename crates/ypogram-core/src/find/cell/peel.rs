//! Takes off what encloses an address, layer by layer.

use crate::characters::bytes::{self, ATEXT, DOT, HIGH};
use crate::find::cell::trim::trimmed;
use crate::judge::grammar::smtp;
use crate::model::found::Form;
use crate::model::repair::Repairs;
use crate::model::span::Span;
use crate::phrases::cell_words::{self as words, Label};
use crate::syntax::local_part::closing_quote;
use crate::syntax::wrapping::{CLOSING_SIGNS, OPENING_SIGNS, PAIRS, Wrapping, mailto_prefix};

/// What is left of a stretch of text, and what was taken off.
#[derive(Clone, Copy, Debug)]
pub(super) struct Peeled {
    pub(super) text: Span,
    pub(super) form: Form,
    pub(super) repairs: Repairs,
    /// The single sign that may be taken off was.
    signed: bool,
    /// Something encloses it: a sign that stands inside with it belongs to it, or nobody knows.
    pub(super) enclosed: bool,
}

impl Peeled {
    pub(super) fn of(text: Span) -> Self {
        Peeled { text, form: Form::Plain, repairs: Repairs::NONE, signed: false, enclosed: false }
    }

    /// Notes that a wrapping was taken off; the outermost names the form, but for a name.
    pub(super) fn note(&mut self, wrapping: Wrapping) {
        self.repairs = self.repairs.union(wrapping.repairs());
        let is_name = wrapping.form() == Form::Named;
        let is_less = matches!(self.form, Form::Plain | Form::Marked);
        if is_less || is_name {
            self.form = wrapping.form();
        }
    }

    fn take_off(&mut self, wrapping: Wrapping, inside: Span) -> bool {
        self.text = inside;
        self.note(wrapping);
        true
    }

    /// Takes one layer off that encloses all of it and may enclose a list as well; returns whether there was one.
    pub(super) fn take_whole_layer(&mut self, text: &[u8]) -> bool {
        let span = self.text;
        let inner = span.of(text);
        if let Some(prefix) =
            mailto_prefix(inner).filter(|&prefix| inner.get(prefix).is_some_and(u8::is_ascii_whitespace))
        {
            let inside = trimmed(text, Span::new(span.start + prefix, span.end));
            return self.take_off(Wrapping::Mailto, inside);
        }
        if let Some(colon) = memchr::memchr(b':', inner)
            && words::label(&inner[..colon]) == Some(Label::Address)
            && mailto_prefix(inner).is_none()
        {
            let inside = trimmed(text, Span::new(span.start + colon + 1, span.end));
            return self.take_off(Wrapping::Labelled, inside);
        }
        self.take_pair(text)
    }

    fn take_pair(&mut self, text: &[u8]) -> bool {
        let span = self.text;
        let Some(inside) = in_pair(span.of(text)) else { return false };
        self.enclosed = true;
        let start = bytes::offset_in(text, inside);
        self.take_off(Wrapping::Quoted, trimmed(text, Span::new(start, start + inside.len())))
    }

    /// Takes off all that stands around an address and touches it.
    pub(super) fn take_all(&mut self, text: &[u8]) {
        while self.take_layer(text) || !self.enclosed && self.take_sign(text) {}
    }

    fn take_layer(&mut self, text: &[u8]) -> bool {
        let span = self.text;
        let inner = span.of(text);
        if let Some(prefix) = mailto_prefix(inner) {
            // RFC 6068: `?subject=…`; another question mark is no part of a link.
            let is_query = |at: &usize| at + 1 == inner.len() || inner[*at..].contains(&b'=');
            let query = memchr::memchr(b'?', inner).filter(is_query).unwrap_or(inner.len());
            let inside = Span::new(span.start + prefix, span.start + query.max(prefix));
            return self.take_off(Wrapping::Mailto, trimmed(text, inside));
        }
        if inner.first() == Some(&b'<') && inner.last() == Some(&b'>') {
            let inside = trimmed(text, Span::new(span.start + 1, span.end - 1));
            self.enclosed = true;
            return self.take_off(Wrapping::Angle, inside);
        }
        self.take_whole_layer(text)
    }

    /// Takes off a single sign behind the address, or one before it. Separators may be repeated.
    fn take_sign(&mut self, text: &[u8]) -> bool {
        let span = self.text;
        let inner = span.of(text);
        let Some(&last) = inner.last() else { return false };
        let separates = matches!(last, b',' | b';');
        if CLOSING_SIGNS.contains(&last) && (separates || !self.signed) && !opens_before(inner, last) {
            self.signed |= !separates;
            return self.take_off(Wrapping::Marked, trimmed(text, Span::new(span.start, span.end - 1)));
        }
        if let Some(b',' | b';') = inner.first() {
            return self.take_off(Wrapping::Marked, trimmed(text, Span::new(span.start + 1, span.end)));
        }
        let opening = OPENING_SIGNS.iter().find(|sign| inner.starts_with(sign.as_bytes()));
        match opening.filter(|_| !self.signed && !is_quoted_local(inner)) {
            Some(sign) => {
                self.signed = true;
                self.take_off(Wrapping::Marked, Span::new(span.start + sign.len(), span.end))
            }
            None => false,
        }
    }
}

/// Whether `text` may start with a sign that opens something: nearly all start with none of these bytes.
fn may_open(text: &[u8]) -> bool {
    matches!(text.first(), Some(b'"' | b'\'' | b'`' | b'(' | b'[' | b'{' | b'<' | 0xE2 | 0xC2))
}

/// Whether the sign at the end closes what is opened inside: then both belong together, or neither to the address.
fn opens_before(inner: &[u8], last: u8) -> bool {
    let open = match last {
        b')' => b'(',
        b'>' => b'<',
        b'\'' => b'\'',
        _ => return false,
    };
    inner[..inner.len() - 1].contains(&open)
}

/// Whether `text` is of the characters that an unwrapped address is made of, faults of their order included.
pub(super) fn is_clean(text: &[u8]) -> bool {
    is_one_word(text) || is_quoted_local(text)
}

/// One word of the characters that addresses are made of. Punctuation outside ASCII is of no address.
pub(super) fn is_one_word(text: &[u8]) -> bool {
    text.iter().all(|&b| bytes::is(b, ATEXT | DOT | HIGH) || b == b'@')
        && !text.is_empty()
        && (text.is_ascii() || !has_foreign_sign(&String::from_utf8_lossy(text)))
}

/// The middle dot of Catalan stands between two letters of a domain.
fn has_foreign_sign(text: &str) -> bool {
    let has_one = text.chars().any(is_foreign_sign);
    has_one && text.to_lowercase().replace("l·l", "ll").chars().any(is_foreign_sign)
}

fn is_foreign_sign(c: char) -> bool {
    bytes::is_space_char(c)
        || matches!(c, '\u{A1}'..='\u{A9}' | '\u{AB}'..='\u{B4}' | '\u{B6}'..='\u{B9}' | '\u{BB}'..='\u{BF}')
        || matches!(c, '\u{2010}'..='\u{2021}' | '\u{2023}'..='\u{2027}' | '\u{2030}'..='\u{205E}' | '\u{3001}'..='\u{3004}' | '\u{3008}'..='\u{3020}')
        || matches!(c, '\u{60C}' | '\u{61B}' | '\u{61F}' | '→' | '←' | '⇒')
}

/// What stands between quotes or brackets that enclose all of `text`, an address among it.
pub(super) fn in_pair(text: &[u8]) -> Option<&[u8]> {
    if !may_open(text) {
        return None;
    }
    PAIRS.iter().find_map(|(open, close)| {
        let inside = text.strip_prefix(open.as_bytes())?.strip_suffix(close.as_bytes())?;
        let has = |sign: &str| memchr::memmem::find(inside, sign.as_bytes()).is_some();
        (inside.contains(&b'@') && !has(close) && !has(open)).then_some(inside)
    })
}

/// The sign that `text` starts with where it opens something that is never closed.
pub(super) fn unclosed(text: &[u8]) -> Option<usize> {
    if !may_open(text) {
        return None;
    }
    let pair = PAIRS.iter().chain(&[("<", ">")]).find(|(open, _)| text.starts_with(open.as_bytes()))?;
    let inside = &text[pair.0.len()..];
    let is_closed = memchr::memmem::find(inside, pair.1.as_bytes()).is_some();
    (!is_closed && is_clean(inside)).then_some(pair.0.len())
}

/// `"ada lovell"@host` and `ada@[192.0.2.1]`: what is no word and yet in order.
pub(super) fn is_quoted_local(text: &[u8]) -> bool {
    (text.starts_with(b"\"") || text.ends_with(b"]"))
        && smtp::cut(text).is_some_and(|cut| {
            let literal = cut.domain.of(text).starts_with(b"[");
            let local = cut.local.of(text);
            let quoted = local.len() > 1 && closing_quote(local) == Some(local.len() - 1);
            let local_fits = quoted || is_one_word(local);
            cut.second_at.is_none() && local_fits && (is_one_word(cut.domain.of(text)) || literal)
        })
}
