//! What a cell has around its only address, where that is simple: white space, angle brackets with or without a name,
//! `mailto:`; or beside its @: spaces.

use crate::bytes::{self, SPACE};
use crate::found::Form;
use crate::repair::{Repair, Repairs};

/// What stands around an address that is plain inside of it, or beside its @, in four bits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Dress(u8);

const WRAPPING: u8 = 7;
const ANGLE: u8 = 1;
const MAILTO: u8 = 2;
const NAMED: u8 = 3;
const SPACED: u8 = 4;
const TRIMMED: u8 = 8;

impl Dress {
    /// How many bits tell it.
    pub(crate) const BITS: u32 = 4;

    /// Something else, so that there is no plain address inside.
    pub(crate) const OTHER: Self = Dress(WRAPPING);

    /// What stands around the address in `cell`, and what is inside of it; there nothing but an address is expected, which
    /// has to be looked at still. None where that needs a closer look.
    #[inline]
    pub(crate) fn of(cell: &[u8]) -> Option<(Self, &[u8])> {
        // Nearly all end with a letter, and start with none of these.
        let (Some(&first), Some(&last)) = (cell.first(), cell.last()) else { return Some((Dress(0), cell)) };
        let bare = last.is_ascii_alphanumeric() && !bytes::is(first, SPACE) && cell.get(6) != Some(&b':');
        if bare { Some((Dress(0), cell)) } else { Dress::around(cell) }
    }

    #[inline(never)]
    fn around(cell: &[u8]) -> Option<(Self, &[u8])> {
        let inner = cell.trim_ascii();
        let trimmed = if inner.len() < cell.len() { TRIMMED } else { 0 };
        if is_mailto(inner) {
            return Some((Dress(trimmed | MAILTO), &inner[7..]));
        }
        let Some(unclosed) = inner.strip_suffix(b">") else { return Some((Dress(trimmed), inner)) };
        let open = memchr::memrchr(b'<', unclosed)?;
        let (before, inside) = (&unclosed[..open], &unclosed[open + 1..]);
        if before.is_empty() {
            return Some((Dress(trimmed | ANGLE), inside));
        }
        // Another @ may make it a list, and these signs may encode something.
        let simple = |b: &u8| b.is_ascii() && !matches!(b, b'@' | b'%' | b'&');
        let in_front = before.first().is_some_and(|b| !matches!(b, b';' | b','));
        (in_front && before.iter().all(simple)).then_some((Dress(trimmed | NAMED), inside))
    }

    /// The one of which these are the bits.
    pub(crate) fn of_bits(bits: u8) -> Self {
        Dress(bits & (WRAPPING | TRIMMED))
    }

    /// The same, and spaces beside the @; none where there is a wrapping as well.
    pub(crate) fn spaced(self) -> Option<Self> {
        (self.0 & WRAPPING == 0).then_some(Dress(self.0 | SPACED))
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

    pub(crate) fn form(self) -> Form {
        match self.0 & WRAPPING {
            ANGLE => Form::Angle,
            MAILTO => Form::Mailto,
            NAMED => Form::Named,
            SPACED => Form::Spaced,
            _ => Form::Plain,
        }
    }

    /// What taking it off is called.
    pub(crate) fn repairs(self) -> Repairs {
        let repairs = match self.0 & WRAPPING {
            ANGLE => Repairs::NONE.with(Repair::AngleBrackets),
            MAILTO => Repairs::NONE.with(Repair::Mailto),
            NAMED => Repairs::NONE.with(Repair::AngleBrackets).with(Repair::NameRemoved),
            SPACED => Repairs::NONE.with(Repair::SpaceAroundAt),
            _ => Repairs::NONE,
        };
        if self.0 & TRIMMED == 0 { repairs } else { repairs.with(Repair::Trimmed) }
    }
}

fn is_mailto(text: &[u8]) -> bool {
    text.get(..7).is_some_and(|start| start.eq_ignore_ascii_case(b"mailto:"))
}
