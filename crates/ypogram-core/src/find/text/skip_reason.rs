//! Why something with an @ is no address.

macro_rules! reasons {
    ($($variant:ident $name:literal $sentence:literal)*) => {
        /// Why something with an @ was passed over.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[repr(u8)]
        pub enum SkipReason {
            $(#[doc = $sentence] $variant,)*
        }

        impl SkipReason {
            /// Every reason.
            pub const ALL: &'static [SkipReason] = &[$(SkipReason::$variant),*];

            /// The word in outputs.
            pub const fn word(self) -> &'static str {
                match self { $(SkipReason::$variant => $name),* }
            }

            /// One sentence for people.
            pub const fn sentence(self) -> &'static str {
                match self { $(SkipReason::$variant => $sentence),* }
            }
        }
    };
}

reasons! {
    Alone "alone" "An @ by itself, as in prices and times."
    Handle "handle" "A name behind an @: a handle, an annotation, a package scope."
    Incomplete "incomplete" "Nothing that could be a domain follows."
    OneLabel "one-label" "What follows is a single word, as in ada@host or a unit's instance."
    Version "version" "A version or another number follows."
    FileName "file-name" "The name of a file."
    UnknownTld "unknown-tld" "The top-level domain is in no root zone; --any-tld takes it."
    UserInfo "user-info" "The user part of a web address."
    Remote "remote" "The host of a remote path, as in git@host:project."
    OtherUri "other-uri" "An address for calls or chat: sip:, xmpp:, …"
    CalendarId "calendar-id" "The identifier of a calendar entry."
    Template "template" "A placeholder that a program fills in, as in %s@host.org."
    MessageId "message-id" "The identifier of a message."
    SeveralAtSigns "several-at-signs" "More than one @ in a word."
    Malformed "malformed" "Dots that no address has, or a part that is too long."
    Hidden "hidden" "Likely an address written so that programs do not see it; --obfuscated takes it."
    Literal "literal" "An IP address in square brackets follows."
    ProgramFault "program-fault" "Ypogram has a fault of its own with this line, which please report; it was not looked at."
}
