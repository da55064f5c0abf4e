//! Short names that are plain data.

use alloc::borrow::ToOwned;
use alloc::string::String;
use core::fmt;
use core::ops::Deref;

/// A name of 1 to 11 bytes that is copied, compared and stored like a number. Moves, modes and
/// gaits have such names.
///
/// ```
/// use rasant::state::Name;
///
/// const SWING: Name = Name::new("swing");
/// assert_eq!(SWING, "swing");
/// assert_eq!("swing".parse(), Ok(SWING));
/// ```
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Name([u8; Name::MAX_LEN]);

/// Why a text cannot be a name.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NameError {
    /// The text is empty or too long, or contains a zero byte.
    #[error("`{0}` cannot be a name, expected 1 to {max} bytes, none of them 0", max = Name::MAX_LEN)]
    Shape(String),
    /// No value has this name.
    #[error("there is no value with the name `{0}`")]
    Unknown(String),
}

impl NameError {
    pub(crate) fn unknown(text: &str) -> Self {
        Self::Unknown(text.to_owned())
    }
}

impl Name {
    /// The maximum length in bytes.
    pub const MAX_LEN: usize = 11;

    /// The name `text`. In a constant, a wrong name does not compile.
    ///
    /// # Panics
    /// If `text` is empty, longer than [`Name::MAX_LEN`] bytes or contains a zero byte.
    #[must_use]
    pub const fn new(text: &str) -> Self {
        match Self::of(text.as_bytes()) {
            Some(name) => name,
            None => panic!("a name has 1 to 11 bytes, none of them 0"),
        }
    }

    const fn of(text: &[u8]) -> Option<Self> {
        if text.is_empty() || text.len() > Self::MAX_LEN {
            return None;
        }
        let mut bytes = [0; Self::MAX_LEN];
        let mut at = 0;
        while at < text.len() {
            if text[at] == 0 {
                return None;
            }
            bytes[at] = text[at];
            at += 1;
        }
        Some(Self(bytes))
    }

    /// A hash of the name that is the same on every platform: 32-bit FNV-1a of its bytes.
    pub(crate) const fn hash32(self) -> u32 {
        let mut hash: u32 = 0x811C_9DC5;
        let mut at = 0;
        while at < Self::MAX_LEN && self.0[at] != 0 {
            hash = (hash ^ self.0[at] as u32).wrapping_mul(0x0100_0193);
            at += 1;
        }
        hash
    }

    /// The name as text.
    #[must_use]
    pub fn as_str(&self) -> &str {
        let len = self.0.iter().position(|&byte| byte == 0).unwrap_or(Self::MAX_LEN);
        // The bytes came from a text, so they are UTF-8.
        core::str::from_utf8(&self.0[..len]).unwrap_or_default()
    }
}

/// The name `none`.
impl Default for Name {
    fn default() -> Self {
        const { Self::new("none") }
    }
}

impl Deref for Name {
    type Target = str;

    fn deref(&self) -> &str {
        self.as_str()
    }
}

impl PartialEq<str> for Name {
    fn eq(&self, other: &str) -> bool {
        self.as_str() == other
    }
}

impl PartialEq<&str> for Name {
    fn eq(&self, other: &&str) -> bool {
        self.as_str() == *other
    }
}

impl fmt::Display for Name {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.as_str())
    }
}

impl fmt::Debug for Name {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(self.as_str(), f)
    }
}

impl core::str::FromStr for Name {
    type Err = NameError;

    fn from_str(text: &str) -> Result<Self, NameError> {
        Self::of(text.as_bytes()).ok_or_else(|| NameError::Shape(text.to_owned()))
    }
}

/// Serializes a type as its text form.
macro_rules! by_text {
    ($Type:ident) => {
        #[cfg(feature = "serde")]
        impl serde::Serialize for $Type {
            fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
                serializer.collect_str(self)
            }
        }

        #[cfg(feature = "serde")]
        impl<'de> serde::Deserialize<'de> for $Type {
            fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
                let text = <alloc::borrow::Cow<'de, str>>::deserialize(deserializer)?;
                text.parse().map_err(serde::de::Error::custom)
            }
        }
    };
}
pub(crate) use by_text;

by_text!(Name);

/// Names for the values of an enum: `name`, `Display` and `FromStr`. A last variant may carry all
/// other names.
macro_rules! named {
    ($Type:ident { $($Variant:ident => $name:literal,)* $(.. $Other:ident,)? }) => {
        impl $Type {
            /// The values that have a name of the library's own.
            pub const NAMED: &'static [Self] = &[$(Self::$Variant),*];

            /// The name, as in traces.
            #[must_use]
            pub fn name(self) -> $crate::state::Name {
                match self {
                    $(Self::$Variant => const { $crate::state::Name::new($name) },)*
                    $(Self::$Other(name) => name,)?
                }
            }
        }

        impl core::fmt::Display for $Type {
            fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
                self.name().fmt(f)
            }
        }

        impl core::str::FromStr for $Type {
            type Err = $crate::state::NameError;

            fn from_str(text: &str) -> Result<Self, $crate::state::NameError> {
                match text {
                    $($name => Ok(Self::$Variant),)*
                    _ => named!(@other text $($Other)?),
                }
            }
        }
    };
    (@other $text:ident) => { Err($crate::state::NameError::unknown($text)) };
    (@other $text:ident $Other:ident) => { $text.parse().map(Self::$Other) };
}
pub(crate) use named;
