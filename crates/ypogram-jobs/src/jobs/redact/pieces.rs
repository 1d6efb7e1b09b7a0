//! A piece of a source, searched for what is to be hidden.

use ypogram_io::Result;
use ypogram_io::pieces::{Kind, Places, Segment};

use crate::engine::faults::caught;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::places::EncodedPlaces;
use crate::jobs::redact::encoded_parts::{self, PartPlace};
use crate::jobs::redact::finder::Finder;
use crate::jobs::redact::personal::Part;
use crate::jobs::redact::wide::Wide;

/// Finds what is to be hidden in a piece.
///
/// # Errors
/// Where it cannot be read.
pub(super) fn look(finder: &mut Finder<'_>, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
    task.piece.load(&task.name)?;
    part.found.clear();
    (part.fixed, part.faults, part.passed) = (0, 0, 0);
    let piece = &task.piece;
    part.wide = match (piece.encoding, piece.kind.as_deref()) {
        (_, Some(Kind::Utf16(true))) => Some(Wide::Big),
        (_, Some(Kind::Utf16(false))) => Some(Wide::Little),
        (Some(encoding), _) if encoding.name() == "UTF-16LE" => Some(Wide::Little),
        (Some(encoding), _) if encoding.name() == "UTF-16BE" => Some(Wide::Big),
        _ => None,
    };
    let mut encoded =
        piece.encoding.map(|encoding| EncodedPlaces { encoding, bytes: &piece.bytes, at: 0, counted: 0 });
    let offset = piece.offset;
    if matches!(piece.kind.as_deref(), Some(Kind::Mail | Kind::Mailbox)) {
        // What stands in a message as it is sent is replaced there, in headers of encoded words too.
        let whole = Segment { body: piece.body.clone(), ..Segment::plain(&piece.bytes, 0, "", None) };
        let looked = caught(|| finder.segment(&whole, &mut |at| offset + at as u64, part));
        part.faults += u64::from(looked.is_none());
        // What is none is counted in the parts of the message.
        part.passed = 0;
        part.in_order();
    }
    let place = PartPlace { piece: &piece.bytes, offset, sent: part.found.len() };
    let counted = piece.segments(&task.name, &mut |segment| {
        let before = part.found.len();
        let mut place_of = |at: usize| {
            let place = segment.places.of(at);
            offset + encoded.as_mut().map_or(place as u64, |encoded| encoded.of(place))
        };
        let looked = caught(|| match &segment.places {
            Places::Part(encoded) => encoded_parts::look(finder, encoded, &segment, &place, part),
            _ => finder.segment(&segment, &mut place_of, part),
        });
        if looked.is_none() {
            part.found.truncate(before);
            part.faults += 1;
        }
    })?;
    part.records = counted.records;
    part.in_order();
    Ok(())
}
