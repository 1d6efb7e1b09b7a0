//! Entries of lists, in the form in which addresses are held against them.

use crate::judge::quick::Judge;
use crate::policy::lists::Standardize;

impl Standardize for Judge<'_> {
    fn address(&mut self, entry: &[u8], out: &mut Vec<u8>) -> Result<(), String> {
        self.take_entry(entry)?;
        self.folded_address(out);
        Ok(())
    }

    fn key(&mut self, entry: &[u8], out: &mut Vec<u8>) -> Result<(), String> {
        self.take_entry(entry)?;
        Judge::key(self, self.policy().same, out);
        Ok(())
    }
}

impl Judge<'_> {
    fn take_entry(&mut self, entry: &[u8]) -> Result<(), String> {
        let judged = self.judge(entry);
        if judged.has_standard_form {
            return Ok(());
        }
        let reason = judged.codes.first().map_or("not-an-address", |code| code.name());
        Err(format!("it is no address ({reason})"))
    }
}
