//! The one table of findings: code, kind, default severity, sentence, help, standard.
//!
//! A new finding is one row here and the check that raises it.

use serde::{Serialize, Serializer};

use crate::model::own_words::{self, OwnWords};
use crate::model::policy_error::PolicyError;
use crate::model::severity::{Kind, Severity};

/// What the table says of a code.
#[derive(Clone, Copy, Debug)]
pub struct CodeInfo {
    /// The code itself, kebab-case and stable.
    pub name: &'static str,
    /// What the finding is about.
    pub kind: Kind,
    /// How much it weighs unless the rulebook says otherwise.
    pub severity: Severity,
    /// One sentence for people.
    pub sentence: &'static str,
    /// What to do about it.
    pub help: &'static str,
    /// Where the rule comes from; empty where it is Ypogram's own.
    pub standard: &'static str,
}

/// Something that can be noticed about an address. [`Code::info`] tells what it means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Code(u8);

macro_rules! codes {
    ($($variant:ident $name:literal $kind:ident $severity:ident $standard:literal $sentence:literal $help:literal)*) => {
        #[repr(u8)]
        enum Place { $($variant),* }

        #[allow(non_upper_case_globals, reason = "codes read like the variants of an enumeration")]
        impl Code {
            $(#[doc = $sentence] pub const $variant: Code = Code(Place::$variant as u8);)*

            /// Every built-in code, in the order of the table: the order in which findings are named.
            pub const ALL: &'static [Code] = &[$(Code::$variant),*];
        }

        static INFO: &[CodeInfo] = &[$(CodeInfo {
            name: $name, kind: Kind::$kind, severity: Severity::$severity, standard: $standard, sentence: $sentence, help: $help,
        }),*];
    };
}

codes! {
    // What leaves nothing to split.
    NoAtSign "no-at-sign" Syntax Reject "RFC 5321 §4.1.2" "There is no @." "An address is a local part, @ and a domain."
    SeveralAtSigns "several-at-signs" Syntax Reject "RFC 5321 §4.1.2" "There is more than one @." "Leave one @; one that belongs to the local part needs quotes around it."
    EmptyLocalPart "empty-local-part" Syntax Reject "RFC 5321 §4.1.2" "Nothing stands before the @." "Put the mailbox name before the @."
    EmptyDomain "empty-domain" Syntax Reject "RFC 5321 §4.1.2" "Nothing stands behind the @." "Put the domain behind the @."
    Telephone "telephone" Syntax Reject "RFC 5321 §4.1.2" "It is a telephone number and no address." "Move it to a field for telephone numbers."
    WebAddress "web-address" Syntax Reject "RFC 5321 §4.1.2" "It is a web address and no mailbox." "Move it to a field for web sites, and ask for an address."
    NotAnAddress "not-an-address" Syntax Reject "RFC 5321 §4.1.2" "There are words and no address." "See whether they belong to another field."
    BrokenAddress "broken-address" Syntax Reject "RFC 5321 §4.1.2" "What touches the address belongs to it or to something else, so it is not known which address was meant." "Type the address again, or take the suggestion."
    // The local part.
    DotAtEdge "dot-at-edge" Syntax Reject "RFC 5321 §4.1.2 Dot-string" "The local part starts or ends with a dot." "Remove the dot, or ask for the address again."
    DoubleDot "double-dot" Syntax Reject "RFC 5321 §4.1.2 Dot-string" "Two dots follow one another." "Leave one of the dots."
    SpaceInside "space-inside" Syntax Reject "RFC 5321 §4.1.2" "There is a space inside." "Remove it, or see whether a dot or underscore was meant."
    CharacterNotAllowed "character-not-allowed" Syntax Reject "RFC 5322 §3.2.3" "A character is not allowed in a local part." "Remove it; only quotes around the whole local part would allow it."
    ControlCharacter "control-character" Syntax Reject "RFC 5321 §4.1.2" "There is a control character inside." "Remove it; it was left behind by a copy or an export."
    BidiControl "bidi-control" Syntax Reject "RFC 5893; UAX #9" "A character that turns the direction of writing stands inside, so the address shows other than it is." "Remove the character and look at what is left."
    NotUtf8 "not-utf-8" Syntax Reject "RFC 6531 §3.3" "There are bytes that are not UTF-8." "Save the source as UTF-8, or type the address again."
    UnbalancedQuote "unbalanced-quote" Syntax Reject "RFC 5321 §4.1.2 Quoted-string" "A quotation mark is never closed, or does not enclose the whole local part." "Remove the quotation marks, or put them around the whole local part."
    LocalPartTooLong "local-part-too-long" Syntax Reject "RFC 5321 §4.5.3.1.1" "The local part has more than 64 bytes." "No server has to take it; ask for the address again."
    AddressTooLong "address-too-long" Syntax Reject "RFC 5321 §4.5.3.1.3" "The address has more than 254 bytes." "It does not fit into a path; ask for the address again."
    CommentInside "comment-inside" Meaning Note "RFC 5322 §3.2.2" "A comment in parentheses stands inside." "Remove it; only message headers know comments."
    FoldingSpace "folding-space" Meaning Note "RFC 5322 §3.2.2" "White space stands around a part of the address." "Remove it; only message headers allow it."
    DisplayName "display-name" Meaning Note "RFC 5322 §3.4" "A display name stands with the address." "Leave only what is in angle brackets."
    Group "group" Meaning Review "RFC 5322 §3.4" "This is a group of addresses." "Take its members one by one."
    ObsoleteForm "obsolete-form" Meaning Note "RFC 5322 §4.4" "The address is written in a form that may be read but no longer written." "Write it without white space, comments or quotes between its words."
    SourceRoute "source-route" Meaning Note "RFC 5321 §4.1.2 A-d-l; RFC 5322 §4.4 obs-route" "A source route stands before the address." "Leave what follows the colon."
    NotHtmlAddress "not-html-address" Syntax Reject "HTML standard, valid e-mail address" "A web form would not take it." "Give an address with ASCII letters, digits and the usual signs only, without quotes or literals."
    // The domain.
    EmptyLabel "empty-label" Syntax Reject "RFC 5321 §4.1.2 Domain" "The domain starts with a dot or has two in a row." "Remove the dot, or put in the missing part."
    TrailingDot "trailing-dot" Syntax Reject "RFC 5321 §4.1.2 Domain" "The domain ends with a dot." "Remove the dot."
    HyphenAtEdge "hyphen-at-edge" Syntax Reject "RFC 5321 §4.1.2 sub-domain" "A label of the domain starts or ends with a hyphen." "Remove the hyphen."
    HyphensThirdFourth "hyphens-third-fourth" Syntax Reject "RFC 5891 §4.2.3.1" "A label has hyphens in its third and fourth place and is not an A-label." "Such names are kept free; look for the slip."
    UnderscoreInDomain "underscore-in-domain" Syntax Reject "RFC 5321 §4.1.2; RFC 1123 §2.1" "There is an underscore in the domain." "A mail domain has letters, digits and hyphens only."
    DomainCharacter "domain-character" Syntax Reject "RFC 5321 §4.1.2; RFC 5890" "A character is not allowed in a domain." "Remove it; a mail domain has letters, digits, hyphens and dots."
    LabelTooLong "label-too-long" Syntax Reject "RFC 1035 §2.3.4" "A label of the domain has more than 63 bytes." "No such domain can exist; look for a missing dot."
    DomainTooLong "domain-too-long" Syntax Reject "RFC 1035 §2.3.4" "The domain has more than 253 bytes." "No such domain can exist."
    BadALabel "bad-a-label" Syntax Reject "RFC 5891 §4.4; UTS #46" "A label that starts with xn-- encodes nothing, or not what it should." "Type the domain in its own letters."
    IdnaNotAllowed "idna-not-allowed" Syntax Reject "RFC 5892; UTS #46" "The domain has letters that no international domain name may have." "Look at the domain letter by letter."
    OutdatedIdna "outdated-idna" Name Review "RFC 5892; UTS #46" "The domain has characters that only the older rules for international names allow." "Few mail systems take such a domain; look at it letter by letter."
    BadLiteral "bad-literal" Syntax Reject "RFC 5321 §4.1.3" "The address literal in square brackets is not one." "Write [192.0.2.1] or [IPv6:2001:db8::1], or better a domain."
    // Whatever a clean-up would repair, where the value has to be right as it was typed.
    AsTypedTrimmed "as-typed-trimmed" Syntax Reject "RFC 5321 §4.1.2" "White space stands around the address." "Remove it."
    AsTypedInvisible "as-typed-invisible" Syntax Reject "RFC 5321 §4.1.2" "Characters that show nothing stand in it." "Type the address again."
    AsTypedFullWidth "as-typed-full-width" Syntax Reject "RFC 5321 §4.1.2" "Full-width characters stand in it." "Type the address on a keyboard set to Latin letters."
    AsTypedEntities "as-typed-entities" Syntax Reject "RFC 5321 §4.1.2" "It is written with character references of HTML." "Write the characters themselves."
    AsTypedPercent "as-typed-percent" Syntax Reject "RFC 5321 §4.1.2" "It is percent-encoded." "Write the characters themselves."
    AsTypedMailto "as-typed-mailto" Syntax Reject "RFC 5321 §4.1.2" "The prefix mailto: stands before it." "Leave the address only."
    AsTypedAngleBrackets "as-typed-angle-brackets" Syntax Reject "RFC 5321 §4.1.2" "It stands in angle brackets." "Leave the address only."
    AsTypedName "as-typed-name" Syntax Reject "RFC 5321 §4.1.2" "A display name or comment stands beside it." "Leave the address only."
    AsTypedLabel "as-typed-label" Syntax Reject "RFC 5321 §4.1.2" "A label such as E-mail: stands before it." "Leave the address only."
    AsTypedTelephone "as-typed-telephone" Syntax Reject "RFC 5321 §4.1.2" "A telephone number stands beside it." "Leave the address only."
    AsTypedUnwrapped "as-typed-unwrapped" Syntax Reject "RFC 5321 §4.1.2" "Quotation marks or brackets stand around it." "Leave the address only."
    AsTypedSign "as-typed-sign" Syntax Reject "RFC 5321 §4.1.2" "A sign beside it does not belong to it." "Leave the address only."
    AsTypedFromText "as-typed-from-text" Syntax Reject "RFC 5321 §4.1.2" "Other words stand beside it." "Leave the address only."
    AsTypedOneOfSeveral "as-typed-one-of-several" Syntax Reject "RFC 5321 §4.1.2" "There is more than one address." "Leave one address."
    AsTypedSpaceAroundAt "as-typed-space-around-at" Syntax Reject "RFC 5321 §4.1.2" "White space stands beside the @." "Remove it."
    AsTypedUnicodeForm "as-typed-unicode-form" Syntax Reject "RFC 6532 §3.1" "Letters are not composed (NFC)." "Type the address again."
    // The domain's name.
    OneLabelDomain "one-label-domain" Name Reject "RFC 5321 §2.3.5" "The domain is a single label." "Add the top-level domain, such as .com or .org."
    NumericTld "numeric-tld" Name Reject "RFC 3696 §2" "The domain ends in a number." "A domain ends in letters; an IP address would stand in square brackets."
    UnknownTld "unknown-tld" Name Reject "IANA root zone" "There is no such top-level domain." "Look for the slip in the top-level domain; a private top-level domain can be trusted in the rulebook."
    PublicSuffix "public-suffix" Name Reject "Public Suffix List" "The domain is a suffix under which others register, and has no mailboxes of its own." "A part before it is missing."
    PrivateSuffix "private-suffix" Name Note "Public Suffix List, private section" "The domain is one under which a firm lets others register names." "It can have mailboxes of its own; nothing to do."
    ReservedName "reserved-name" Name Reject "RFC 2606; RFC 6761; RFC 7686" "The domain is reserved and can have no mailbox." "It is a made-up or internal name; a job that uses it can trust it in the rulebook."
    // Well formed, yet perhaps not a contact.
    AddressLiteral "address-literal" Meaning Reject "RFC 5321 §4.1.3" "The domain is an IP address in square brackets." "Such an address is not a lasting contact; ask for one with a domain."
    Placeholder "placeholder" Meaning Reject "" "It says that there is no address." "Treat the record as one without an address."
    LooksMadeUp "looks-made-up" Meaning Review "" "It looks made up to get past a form." "Ask for the real address, or drop it."
    TypingSlip "typing-slip" Meaning Review "" "The domain looks like a typing slip of a well-known one." "Compare it with the suggestion."
    LookAlikeLetters "look-alike-letters" Meaning Review "UTS #39" "Letters of scripts that look alike are mixed." "Type the address again on one keyboard."
    QuotedLocalPart "quoted-local-part" Meaning Review "RFC 5321 §4.1.2" "The local part needs quotation marks." "It is allowed, yet few systems take it; make sure it is meant."
    NoReply "no-reply" Meaning Review "" "Nobody reads this mailbox: it only sends." "Ask for an address that is read."
    NotIssued "not-issued" Meaning Review "" "The provider cannot have issued this local part." "Look for the slip in the local part."
    DoNotContact "do-not-contact" Meaning Review "" "A remark says that nobody must write there, or that the address is dead." "Read the remark, and drop the address where it still holds."
    Replaced "replaced" Meaning Review "" "A remark says that one address replaces another." "Take the newer one."
    WordBeside "word-beside" Meaning Review "" "A word stands directly beside the address and may be a part of it." "Decide whether the word belongs to the address."
    Remark "remark" Meaning Review "" "Other words stand beside the address." "Read them; they are in the column yp_remark."
    OtherLink "other-link" Meaning Review "" "The link behind the cell goes to another address than the cell shows." "Compare it with the link, which is in the column yp_remark."
    FromOtherField "from-other-field" Meaning Review "" "The address field has none that can be used; this one stands among other words and may be somebody else's." "See whose address it is."
    Template "template" Meaning Review "" "It is masked, or a placeholder that was never filled in." "Get the address from where it was taken."
    Residue "residue" Meaning Review "" "It has remains of an encoding, or its top-level domain twice." "Compare it with the suggestion."
    Mojibake "mojibake" Meaning Review "" "Characters were read in another encoding than they were written in." "Compare it with the suggestion, or read the source again."
    Relayed "relayed" Meaning Review "RFC 5321 appendix F.2" "The local part names another host, as old mail relays did." "Write to the mailbox itself."
    FormulaLike "formula-like" Meaning Review "" "It begins with a sign that a spreadsheet takes for a formula." "See whether the sign belongs to it."
    OddBeginning "odd-beginning" Meaning Review "" "It begins with an apostrophe or a slash." "See whether the sign belongs to it."
    Obfuscated "obfuscated" Meaning Review "" "The address was written so that programs do not see it." "Make sure it was read as meant."
    SpacedAt "spaced-at" Meaning Review "" "White space stands beside the @, among other words." "See whether the word before the @ belongs to the address."
    RoleAccount "role-account" Meaning Note "RFC 2142" "The address is a role account and not a person's." "Nothing to do, unless you want persons only."
    Tagged "tagged" Meaning Note "RFC 5233" "The local part has a tag that sorts mail of one mailbox." "Nothing to do; the key leaves the tag out where the provider does."
    NonAsciiLocal "non-ascii-local-part" Meaning Note "RFC 6531" "The local part has letters outside ASCII." "Only mail systems with SMTPUTF8 reach it."
    NonAsciiDomain "non-ascii-domain" Meaning Note "RFC 5890" "The domain has letters outside ASCII." "Nothing to do; the standard form has its A-labels."
    NameDiffers "name-differs" Meaning Note "" "The name in the address is not that of the record." "See whether the address is this person's."
    // Reference lists.
    Disposable "disposable" List Review "" "The mailbox is of a throw-away service." "It will soon be gone; ask for a lasting address."
    FreeProvider "free-provider" List Note "" "The mailbox is of a free provider." "Nothing to do, unless business addresses are wanted."
    IspMailbox "isp" List Note "" "The mailbox comes with an Internet connection." "Nothing to do; it goes when the contract does."
    PaidMailbox "paid" List Note "" "The mailbox is of a provider that people pay." "Nothing to do."
    Relay "relay" List Note "" "The address passes mail on to one that it hides." "Nothing to do; it can be switched off at any time."
    // What the domain name system says, where it is asked.
    NoSuchDomain "no-such-domain" Network Reject "RFC 5321 §5.1; RFC 2308 §2.1" "The domain does not exist." "Look for the slip in the domain, or ask for another address."
    TakesNoMail "takes-no-mail" Network Reject "RFC 7505" "The domain says that it takes no mail." "Ask for another address."
    NoMailHost "no-mail-host" Network Review "RFC 5321 §5.1" "The domain exists and has neither a mail host nor an address of its own." "Ask for another address, or ask the DNS again some day later."
    MailHostNotFound "mail-host-not-found" Network Review "RFC 5321 §5.1" "The mail host of the domain has no address that can be reached." "Ask for another address, or ask the DNS again some day later."
    NotAnswered "not-answered" Network Note "RFC 5321 §5.1" "The domain name system did not answer for the domain." "Nothing is known against the address: ask again later."
    // Duplicates.
    SharedMailbox "shared-mailbox" Duplicate Review "" "The same mailbox is held by a record of another person." "Couples share mailboxes: see whether both stay."
    // Ypogram itself.
    ProgramFault "program-fault" Meaning Reject "" "Ypogram has a fault of its own with this record." "Please report it, with the record if you may; it was not looked at."
    // The house's own rules.
    TooLongForHouse "max-length" House Reject "" "The address is longer than this job allows." "Shorten it, or raise max-length in the rulebook."
    Dropped "dropped" House Reject "" "Somebody decided to drop the record." "Change the decision where it no longer holds."
    Pattern "pattern" House Review "" "None of the patterns asked for fits." "See which pattern was meant with `ypogram rules try`."
    HouseFormat "house-format" House Review "" "The address is not built as the house prescribes." "Compare it with the proposal, which is in the column yp_house_proposal."
    FieldFilled "field-filled" House Review "" "A field is empty that has to be filled." "Fill it; the column yp_fields_at_fault names it."
    FieldUnique "field-unique" House Review "" "A field repeats the value of an earlier record." "See which of them has it rightly."
    FieldFits "field-fits" House Review "" "A field does not fit its pattern." "Try the value with `ypogram rules try`."
    FieldIs "field-is" House Review "" "A field holds something of another kind." "See whether it belongs to another field."
    FieldOneOf "field-one-of" House Review "" "A field has a value that is none of those allowed." "Correct it, or add it to the allowed ones."
    FieldLength "field-length" House Review "" "A field is shorter or longer than allowed." "Correct it, or change the length in the rulebook."
    FieldEarliest "field-earliest" House Review "" "A date is earlier than allowed, or is none." "Correct the date."
    FieldLatest "field-latest" House Review "" "A date is later than allowed, or is none." "Correct the date."
    FieldAtLeastOneOf "field-at-least-one-of" House Review "" "Of several fields none is filled." "Fill one of them."
    ShortName "short-name" House Note "" "The address has a short form of the given name." "Nothing to do, unless the house wants whole names."
}

/// As many findings of their own can the lists of a job raise.
const MOST_OWN: usize = 32;

static OWN: OwnWords<CodeInfo, MOST_OWN> = OwnWords::new();

impl Code {
    /// How many codes there can be: built-in ones and those of jobs.
    pub const COUNT: usize = Code::ALL.len() + MOST_OWN;

    /// The code of that name: a built-in one, else one of the job's own, which is a note unless the job sets another severity.
    ///
    /// # Errors
    /// Where it cannot be a name, or there are 32 of them already.
    pub fn own(name: &str) -> Result<Code, PolicyError> {
        if let Some(code) = Code::from_name(name) {
            return Ok(code);
        }
        if !own_words::is_name(name) {
            return Err(PolicyError(format!(
                "‘{name}’ cannot name a finding: take lower-case letters, digits and hyphens"
            )));
        }
        let make = || CodeInfo {
            name: own_words::kept(name.to_owned()),
            kind: Kind::List,
            severity: Severity::Note,
            sentence: own_words::kept(format!("A list of your own says: {name}.")),
            help: "See which entry says so with `ypogram lists test`.",
            standard: "",
        };
        let place = OWN.place_of(|info| info.name == name, make);
        let place = place
            .ok_or_else(|| PolicyError(format!("more than {MOST_OWN} findings of one's own are too many")))?;
        Ok(Code((Code::ALL.len() + place) as u8))
    }

    /// Every code, the built-in ones first.
    pub fn all() -> impl DoubleEndedIterator<Item = Code> {
        (0..Code::ALL.len() + OWN.len()).map(|place| Code(place as u8))
    }

    /// The code at that place among all.
    pub(crate) fn at(place: usize) -> Option<Code> {
        (place < Code::COUNT).then_some(Code(place as u8))
    }

    /// Its place among all codes, below [`Code::COUNT`].
    #[inline]
    pub const fn index(self) -> usize {
        self.0 as usize
    }

    /// Whether it is of the built-in table.
    pub const fn is_built_in(self) -> bool {
        self.index() < Code::ALL.len()
    }

    /// What the table says of this code.
    pub fn info(self) -> &'static CodeInfo {
        INFO.get(self.index()).or_else(|| OWN.get(self.index() - INFO.len())).expect("a code has its row")
    }

    /// The code as it is written everywhere, such as `double-dot`.
    pub fn name(self) -> &'static str {
        self.info().name
    }

    /// The code of that name.
    pub fn from_name(name: &str) -> Option<Code> {
        Code::all().find(|code| code.name() == name)
    }

    /// Whether there is nothing to split where this is found, so that its severity is fixed.
    pub fn leaves_nothing(self) -> bool {
        matches!(
            self,
            Code::NoAtSign
                | Code::Telephone
                | Code::WebAddress
                | Code::NotAnAddress
                | Code::SeveralAtSigns
                | Code::EmptyLocalPart
                | Code::EmptyDomain
                | Code::ProgramFault
        )
    }

    /// The least that it can weigh: what leaves nothing to split rejects, and an address of which no standard form can be made
    /// is for review at least. A fault of order or length can be let pass; the address then stands as it was written.
    ///
    /// ```
    /// use ypogram_core::{Code, Severity};
    /// assert_eq!(Code::NoAtSign.least(), Severity::Reject);
    /// assert_eq!(Code::NotUtf8.least(), Severity::Review);
    /// assert_eq!(Code::DoubleDot.least(), Severity::Off);
    /// ```
    pub fn least(self) -> Severity {
        const CAN_BE_WRITTEN: &[Code] = &[
            Code::DotAtEdge,
            Code::DoubleDot,
            Code::TrailingDot,
            Code::HyphenAtEdge,
            Code::HyphensThirdFourth,
            Code::UnderscoreInDomain,
            Code::LocalPartTooLong,
            Code::AddressTooLong,
            Code::LabelTooLong,
            Code::DomainTooLong,
            Code::NotHtmlAddress,
        ];
        match self {
            code if code.leaves_nothing() || code == Code::Dropped => Severity::Reject,
            // The address itself is in order there.
            code if code.name().starts_with("as-typed-") => Severity::Off,
            code if code.info().kind == Kind::Syntax && !CAN_BE_WRITTEN.contains(&code) => Severity::Review,
            _ => Severity::Off,
        }
    }
}

impl Serialize for Code {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.name())
    }
}

/// A set of codes, a bit each.
///
/// ```
/// use ypogram_core::{Code, CodeSet};
/// let set = CodeSet::of(&[Code::DoubleDot, Code::Tagged]);
/// assert!(set.contains(Code::Tagged));
/// assert_eq!(set.iter().map(Code::name).collect::<Vec<_>>(), ["double-dot", "tagged"]);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct CodeSet([u64; WORDS]);

/// Machine words of a set.
const WORDS: usize = 3;

impl CodeSet {
    /// No code.
    pub const EMPTY: CodeSet = CodeSet([0; WORDS]);

    /// Just these codes.
    pub fn of(codes: &[Code]) -> Self {
        codes.iter().fold(CodeSet::EMPTY, |set, &code| set.with(code))
    }

    /// This set and `code`.
    #[must_use]
    #[inline]
    pub const fn with(self, code: Code) -> Self {
        let mut set = self;
        set.0[code.0 as usize / 64] |= 1 << (code.0 % 64);
        set
    }

    /// Adds `code`.
    #[inline]
    pub fn insert(&mut self, code: Code) {
        *self = self.with(code);
    }

    /// Whether `code` is in it.
    #[inline]
    pub const fn contains(self, code: Code) -> bool {
        self.0[code.0 as usize / 64] >> (code.0 % 64) & 1 == 1
    }

    /// Whether the two have a code in common.
    #[inline]
    pub const fn meets(self, other: CodeSet) -> bool {
        !self.intersection(other).is_empty()
    }

    /// The codes of both.
    #[must_use]
    #[inline]
    pub const fn union(self, other: CodeSet) -> Self {
        let [[a, b, c], [x, y, z]] = [self.0, other.0];
        CodeSet([a | x, b | y, c | z])
    }

    /// The codes of both sets at once.
    #[must_use]
    #[inline]
    pub const fn intersection(self, other: CodeSet) -> Self {
        let [[a, b, c], [x, y, z]] = [self.0, other.0];
        CodeSet([a & x, b & y, c & z])
    }

    /// The codes that are not in `other`.
    #[must_use]
    #[inline]
    pub const fn without(self, other: CodeSet) -> Self {
        let [[a, b, c], [x, y, z]] = [self.0, other.0];
        CodeSet([a & !x, b & !y, c & !z])
    }

    /// How many there are.
    pub const fn len(self) -> usize {
        let [a, b, c] = self.0;
        (a.count_ones() + b.count_ones() + c.count_ones()) as usize
    }

    /// Whether there is none.
    #[inline]
    pub const fn is_empty(self) -> bool {
        let [a, b, c] = self.0;
        a | b | c == 0
    }

    /// All its bits in one word, for hash tables.
    #[inline]
    pub const fn folded(self) -> u64 {
        let [a, b, c] = self.0;
        a ^ b ^ c.rotate_left(32)
    }

    /// The first in the order of the table.
    pub fn first(self) -> Option<Code> {
        self.iter().next()
    }

    /// The codes in the order of the table.
    pub fn iter(self) -> impl Iterator<Item = Code> {
        let mut words = self.0;
        std::iter::from_fn(move || {
            let word = words.iter().position(|word| *word != 0)?;
            let bit = words[word].trailing_zeros();
            words[word] &= words[word] - 1;
            Some(Code((word * 64) as u8 + bit as u8))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_in_order_and_complete() {
        const { assert!(Code::COUNT <= WORDS * 64, "a CodeSet holds all codes") };
        let mut names: Vec<_> = Code::ALL.iter().map(|code| code.name()).collect();
        for (code, name) in Code::ALL.iter().zip(&names) {
            assert_eq!(Code::from_name(name), Some(*code));
            let info = code.info();
            assert!(
                name.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-'),
                "{name}"
            );
            assert!(info.sentence.ends_with('.') && info.help.ends_with('.'), "{name}: whole sentences");
            assert!(info.kind != Kind::Syntax || info.severity == Severity::Reject, "{name}: syntax rejects");
            assert!(info.kind != Kind::Syntax || !info.standard.is_empty(), "{name}: syntax has a standard");
        }
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), Code::ALL.len(), "every code once");
    }
}
