//! Input that one may have to wait for: standard input, a pipe. It is read on a thread of its own, so that the wish to stop
//! is heard while nothing comes.

use std::io::{self, Read};
use std::sync::mpsc::{Receiver, RecvTimeoutError, sync_channel};
use std::thread;

use crate::records::stopping::{PATIENCE, is_stopped};

/// Bytes that are read at once.
const BLOCK: usize = 64 << 10;

/// Blocks that are read before somebody asks for them.
const AHEAD: usize = 16;

pub(crate) struct Waiting {
    blocks: Receiver<io::Result<Vec<u8>>>,
    block: io::Cursor<Vec<u8>>,
}

impl Waiting {
    /// Opens an input and reads it, ahead of who asks.
    pub(crate) fn on<R: Read>(open: impl FnOnce() -> io::Result<R> + Send + 'static) -> Self {
        let (sender, blocks) = sync_channel(AHEAD);
        thread::spawn(move || {
            let mut input = match open() {
                Ok(input) => input,
                Err(error) => return drop(sender.send(Err(error))),
            };
            loop {
                let mut block = vec![0; BLOCK];
                let read = input.read(&mut block);
                if read.as_ref().is_err_and(|error| error.kind() == io::ErrorKind::Interrupted) {
                    continue;
                }
                let goes_on = read.as_ref().is_ok_and(|bytes| *bytes > 0);
                let sent = sender.send(read.map(|bytes| {
                    block.truncate(bytes);
                    block
                }));
                if sent.is_err() || !goes_on {
                    return;
                }
            }
        });
        Waiting { blocks, block: io::Cursor::default() }
    }
}

impl Read for Waiting {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.block.read(buffer)?;
        if read > 0 || buffer.is_empty() {
            return Ok(read);
        }
        loop {
            match self.blocks.recv_timeout(PATIENCE) {
                Ok(block) => {
                    self.block = io::Cursor::new(block?);
                    return self.block.read(buffer);
                }
                Err(RecvTimeoutError::Timeout) if !is_stopped() => {}
                Err(RecvTimeoutError::Timeout) => return Err(io::Error::other("the wait was ended")),
                Err(RecvTimeoutError::Disconnected) => return Ok(0),
            }
        }
    }
}
