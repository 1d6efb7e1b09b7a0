//! Who may read and write a file: as before where one is replaced, else as the process mask has it.

use std::fs::{File, Metadata, Permissions};
use std::io;

/// Owner, group and mode of a file to be.
#[derive(Clone, Debug)]
pub(super) struct Access {
    permissions: Permissions,
    #[cfg(unix)]
    owner: Option<(u32, u32)>,
}

impl Access {
    /// As of the file that is there, or that was just made the ordinary way.
    pub(super) fn of(metadata: &Metadata, replaced: bool) -> Self {
        Access {
            permissions: metadata.permissions(),
            #[cfg(unix)]
            owner: replaced.then(|| {
                use std::os::unix::fs::MetadataExt as _;
                (metadata.uid(), metadata.gid())
            }),
        }
    }

    /// Gives it to `file`. Owner and group stay as far as the system lets us.
    ///
    /// # Errors
    /// Where the mode cannot be set.
    pub(super) fn give(&self, file: &File) -> io::Result<()> {
        #[cfg(unix)]
        if let Some((owner, group)) = self.owner {
            use std::os::unix::fs::{MetadataExt as _, fchown};
            let now = file.metadata()?;
            if now.gid() != group {
                // Only a member of the group may.
                let _ = fchown(file, None, Some(group));
            }
            if now.uid() != owner {
                let _ = fchown(file, Some(owner), None);
            }
        }
        file.set_permissions(self.permissions.clone())
    }
}
