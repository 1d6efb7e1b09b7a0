//! Bytes from files and pipes, cut into chunks. Here belongs what does not depend on a format.

pub(crate) mod borders;
pub(crate) mod chunked;
pub(crate) mod encoding;
pub(crate) mod file_input;
pub(crate) mod on_disk;
pub(crate) mod row_thread;
pub(crate) mod waiting;
