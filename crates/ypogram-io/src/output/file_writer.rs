//! Writes a large file on a thread of its own, and past the system's cache of files where the system takes that.
//!
//! An output is written once, synced, and not looked at again while the job lasts. To leave it in the cache first would cost a
//! copy, the memory, and the time in which the system finds out what it has to write; and it would push out of the cache what
//! people work with.

use std::fs::File;
use std::io::{self, Write};
use std::sync::mpsc::{Receiver, Sender, SyncSender, channel, sync_channel};
use std::sync::{Mutex, PoisonError};
use std::thread::JoinHandle;

use memmap2::{MmapMut, MmapOptions};

/// Bytes that are written at once, as many as one of the large pages of the system has; smaller files need no thread.
pub(crate) const BLOCK: usize = 2 << 20;

/// Blocks that are being filled or written: with more of them each has left the processor's cache before it is filled again.
const BLOCKS: usize = 2;

/// Where writes go through the cache, what was written is sent to the disk whenever it is this much, in bytes.
const SYNC_AFTER: usize = 16 << 20;

/// Some bytes to be written. They lie in a large page where the system gives one: what is written past the cache has to start where
/// a page does, and the system looks at each page of it.
pub(crate) struct Block {
    memory: Option<MmapMut>,
    len: usize,
}

impl Block {
    pub(crate) fn new() -> Self {
        let memory = MmapOptions::new().len(BLOCK).map_anon().expect("there is a little memory");
        // Only a wish: without it is slower, not wrong.
        #[cfg(target_os = "linux")]
        let _ = memory.advise(memmap2::Advice::HugePage);
        Block { memory: Some(memory), len: 0 }
    }

    /// One that has no room, to stand where another was.
    pub(crate) fn none() -> Self {
        Block { memory: None, len: 0 }
    }

    /// Takes as many of `bytes` as there is room for; gives the others.
    pub(crate) fn take<'b>(&mut self, bytes: &'b [u8]) -> &'b [u8] {
        let Some(memory) = &mut self.memory else { return bytes };
        let (taken, rest) = bytes.split_at(bytes.len().min(BLOCK - self.len));
        memory[self.len..self.len + taken.len()].copy_from_slice(taken);
        self.len += taken.len();
        rest
    }

    pub(crate) fn is_full(&self) -> bool {
        self.len == BLOCK
    }

    pub(crate) fn filled(&self) -> &[u8] {
        self.memory.as_ref().map_or(&[], |memory| &memory[..self.len])
    }
}

/// The thread that writes to a file.
pub(crate) struct FileWriter {
    full: SyncSender<Block>,
    /// Behind a lock only so that threads can share the writer.
    empty: Mutex<Receiver<Block>>,
    /// Blocks that may still be made.
    more: usize,
    thread: JoinHandle<io::Result<()>>,
}

impl FileWriter {
    /// One that writes to `file` from where it stands.
    ///
    /// # Errors
    /// Where the file cannot be opened once more.
    pub(crate) fn start(file: &File) -> io::Result<Self> {
        let file = file.try_clone()?;
        let (full, to_write) = sync_channel(BLOCKS);
        let (written, empty) = channel();
        let thread = std::thread::spawn(move || write_all(file, &to_write, &written));
        Ok(FileWriter { full, empty: Mutex::new(empty), more: BLOCKS - 1, thread })
    }

    /// Hands over a full block; gives an empty one. Once writing has failed, that comes from [`finish`](Self::finish).
    pub(crate) fn write(&mut self, block: Block) -> Block {
        let taken = self.full.send(block).is_ok();
        let written = self.empty.get_mut().unwrap_or_else(PoisonError::into_inner);
        if let Ok(empty) = written.try_recv() {
            return empty;
        }
        if self.more > 0 {
            self.more -= 1;
            return Block::new();
        }
        // Where the thread has ended there is none to wait for.
        let empty = if taken { written.recv().ok() } else { None };
        empty.unwrap_or_else(Block::new)
    }

    /// Whether it has stopped, which it does early only where writing fails.
    pub(crate) fn has_ended(&self) -> bool {
        self.thread.is_finished()
    }

    /// Waits until all is written.
    ///
    /// # Errors
    /// Where something could not be.
    pub(crate) fn finish(self) -> io::Result<()> {
        drop(self.full);
        self.thread.join().unwrap_or_else(|_| Err(io::Error::other("a block was not written")))
    }
}

fn write_all(mut file: File, blocks: &Receiver<Block>, written: &Sender<Block>) -> io::Result<()> {
    let mut past_the_cache = bypass_cache(&file, true);
    let mut fresh = 0;
    for mut block in blocks {
        write_block(&mut file, block.filled(), &mut past_the_cache)?;
        fresh += block.len;
        if !past_the_cache && fresh >= SYNC_AFTER {
            file.sync_data()?;
            fresh = 0;
        }
        block.len = 0;
        // Nobody wants it back at the end.
        let _ = written.send(block);
    }
    if past_the_cache {
        bypass_cache(&file, false);
    }
    Ok(())
}

fn write_block(file: &mut File, bytes: &[u8], past_the_cache: &mut bool) -> io::Result<()> {
    let mut rest = bytes;
    while !rest.is_empty() {
        match file.write(rest) {
            Ok(0) => return Err(io::ErrorKind::WriteZero.into()),
            Ok(memory) => rest = &rest[memory..],
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            // Not every system of files takes it, and none where only a part of a block was written.
            Err(error) if *past_the_cache && error.kind() == io::ErrorKind::InvalidInput => {
                bypass_cache(file, false);
                *past_the_cache = false;
            }
            Err(error) => return Err(error),
        }
    }
    Ok(())
}

/// Lets writes to `file` go past the cache, or through it again; tells whether they go past it.
#[cfg(target_os = "linux")]
fn bypass_cache(file: &File, bypass: bool) -> bool {
    use rustix::fs::{OFlags, fcntl_getfl, fcntl_setfl};
    let set = fcntl_getfl(file).and_then(|mut flags| {
        flags.set(OFlags::DIRECT, bypass);
        fcntl_setfl(file, flags)
    });
    bypass && set.is_ok()
}

#[cfg(not(target_os = "linux"))]
fn bypass_cache(_: &File, _: bool) -> bool {
    false
}

#[cfg(test)]
mod tests {
    use std::fs;

    use super::*;

    #[test]
    fn blocks_arrive_in_order_and_failures_are_told() {
        let file = tempfile::NamedTempFile::new().unwrap();
        let mut writer = FileWriter::start(file.as_file()).unwrap();
        let mut block = Block::new();
        let content: Vec<u8> = (0..5 * BLOCK as u32 + 77).map(|i| (i % 251) as u8).collect();
        let mut rest = &content[..];
        loop {
            rest = block.take(rest);
            if !block.is_full() {
                break;
            }
            block = writer.write(block);
        }
        writer.finish().unwrap();
        file.as_file().write_all(block.filled()).unwrap();
        assert!(fs::read(file.path()).unwrap() == content);

        let read_only = File::open(file.path()).unwrap();
        let mut writer = FileWriter::start(&read_only).unwrap();
        for _ in 0..20 {
            let mut block = Block::new();
            block.take(&content[..BLOCK]);
            writer.write(block);
        }
        writer.finish().unwrap_err();
    }
}
