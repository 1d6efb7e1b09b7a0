//! What a cell has around its only address, where that is simple: white space, angle brackets with or without a name,
//! `mailto:`; or beside its @: spaces. The fast path takes these off and leaves all others to [`cell`](crate::find::cell).

use crate::characters::bytes::{self, SPACE};
use crate::model::found::Form;
use crate::model::repair::{Repair, Repairs};
use crate::phrases::contact_remark;
use crate::syntax::wrapping::{Wrapping, mailto_prefix};

/// What stands around an address that is plain inside of it, or beside its @, in four bits: a [`Wrapping`], and whether there
/// is white space around it all.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct SimpleWrapping(u8);

const WRAPPING: u8 = 7;
const TRIMMED: u8 = 8;

/// Those that are simple; their places are their bits.
const SIMPLE: [Wrapping; 5] =
    [Wrapping::None, Wrapping::Angle, Wrapping::Mailto, Wrapping::NamedAngle, Wrapping::Spaced];

impl SimpleWrapping {
    /// How many bits tell it.
    pub(crate) const BITS: u32 = 4;

    /// Something else, so that there is no plain address inside.
    pub(crate) const OTHER: Self = SimpleWrapping(WRAPPING);

    const fn new(wrapping: Wrapping, trimmed: u8) -> Self {
        SimpleWrapping(wrapping as u8 | trimmed)
    }

    /// What stands around the address in `cell`, and what is inside of it; there nothing but an address is expected, which
    /// has to be looked at still. None where only the reference path can say.
    #[inline]
    pub(crate) fn of(cell: &[u8]) -> Option<(Self, &[u8])> {
        // Nearly all end with a letter, and start with none of these.
        let (Some(&first), Some(&last)) = (cell.first(), cell.last()) else {
            return Some((SimpleWrapping(0), cell));
        };
        let bare = last.is_ascii_alphanumeric() && !bytes::is(first, SPACE) && cell.get(6) != Some(&b':');
        if bare { Some((SimpleWrapping(0), cell)) } else { SimpleWrapping::around(cell) }
    }

    #[inline(never)]
    fn around(cell: &[u8]) -> Option<(Self, &[u8])> {
        let inner = cell.trim_ascii();
        let trimmed = if inner.len() < cell.len() { TRIMMED } else { 0 };
        let address_of = |wrapping, inside: &'_ [u8]| {
            let bare = inside.last().is_some_and(u8::is_ascii_alphanumeric);
            bare.then_some(SimpleWrapping::new(wrapping, trimmed))
        };
        if let Some(prefix) = mailto_prefix(inner) {
            return address_of(Wrapping::Mailto, inner).map(|of| (of, &inner[prefix..]));
        }
        let Some(unclosed) = inner.strip_suffix(b">") else {
            return address_of(Wrapping::None, inner).map(|of| (of, inner));
        };
        let open = memchr::memrchr(b'<', unclosed)?;
        let (before, inside) = (&unclosed[..open], &unclosed[open + 1..]);
        if before.is_empty() {
            return address_of(Wrapping::Angle, inside).map(|of| (of, inside));
        }
        let in_front = before.first().is_some_and(|b| !matches!(b, b';' | b','));
        let has_word = before.iter().any(|&b| b.is_ascii_alphanumeric() || b >= 0x80);
        let is_name = in_front && has_word && may_be_name(before) && !contact_remark::is_in(before);
        let of = address_of(Wrapping::NamedAngle, inside).filter(|_| is_name)?;
        Some((of, inside))
    }

    /// The one of which these are the bits.
    pub(crate) fn of_bits(bits: u8) -> Self {
        SimpleWrapping(bits & (WRAPPING | TRIMMED))
    }

    /// The same, and spaces beside the @; none where there is a wrapping as well.
    pub(crate) fn spaced(self) -> Option<Self> {
        (self.0 & WRAPPING == 0).then_some(SimpleWrapping(self.0 | Wrapping::Spaced as u8))
    }

    #[inline]
    pub(crate) fn bits(self) -> u8 {
        self.0
    }

    /// Whether the cell is the address.
    #[inline]
    pub(crate) fn is_none(self) -> bool {
        self.0 == 0
    }

    fn wrapping(self) -> Wrapping {
        SIMPLE.get(usize::from(self.0 & WRAPPING)).copied().unwrap_or_default()
    }

    pub(crate) fn form(self) -> Form {
        self.wrapping().form()
    }

    /// What taking it off is called.
    pub(crate) fn repairs(self) -> Repairs {
        let repairs = self.wrapping().repairs();
        if self.0 & TRIMMED == 0 { repairs } else { repairs.with(Repair::Trimmed) }
    }
}

/// Whether what stands before angle brackets may be a name and no more: another @ may make it a list, and other signs may encode
/// something, or be a label, a list or a remark.
fn may_be_name(before: &[u8]) -> bool {
    let simple = |b: &u8| {
        b.is_ascii()
            && !matches!(
                b,
                b'@' | b'%' | b'&' | b':' | b'/' | b'|' | b'(' | b'[' | b'\n' | b'\r' | b'<' | b'>'
            )
    };
    // Letters outside ASCII, but for those that are wide forms of ordinary ones.
    let is_letter = |c: char| c.is_alphabetic() && c < '\u{FF00}';
    let all_letters = |text: &str| text.chars().all(|c| c.is_ascii() && simple(&(c as u8)) || is_letter(c));
    before.iter().all(simple) || std::str::from_utf8(before).is_ok_and(all_letters)
}
