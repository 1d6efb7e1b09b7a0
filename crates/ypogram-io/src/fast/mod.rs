//! Bytes found and copied many at a time (fast path). Here belongs what knows nothing of records and is deletable for slower code; the figure
//! that earned each part stands beside it.

pub(crate) mod byte_places;
pub(crate) mod short_copy;
