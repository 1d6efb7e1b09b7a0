//! Mail: one message, and messages one after the other; with what is in their parts.

use ypogram_io::Format;

use super::cutting::cut_into_pieces;
use super::file::file_of;
use super::records::read_records;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn mail(bytes: &[u8]) {
    let path = file_of("message.eml", bytes);
    read_records(&path, Format::Mail);
    cut_into_pieces(&path);
    let path = file_of("messages.mbox", bytes);
    read_records(&path, Format::Mailbox);
    cut_into_pieces(&path);
}
