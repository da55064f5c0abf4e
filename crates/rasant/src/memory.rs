//! Plain data as 32-bit words: what moves store in a state from tick to tick.

use glam::{Vec2, Vec3};

/// Data that a move stores from tick to tick, as [`Memory::WORDS`] words of 4 bytes. The
/// [`memory!`](crate::memory) macro implements it for a struct. Numbers, vectors, ids, options,
/// pairs and short arrays implement it.
///
/// All words 0 must mean that nothing has happened yet, because a new body begins with them.
pub trait Memory: Copy + PartialEq + Sized {
    /// The number of words.
    const WORDS: usize;

    /// Reads the value from the beginning of `words`.
    fn read(words: &[u32]) -> Self;

    /// Writes the value to the beginning of `words`.
    fn write(&self, words: &mut [u32]);
}

impl Memory for () {
    const WORDS: usize = 0;
    fn read(_words: &[u32]) -> Self {}
    fn write(&self, _words: &mut [u32]) {}
}

macro_rules! in_a_word {
    ($($Type:ty: |$word:ident| $read:expr, |$value:ident| $write:expr;)*) => {$(
        impl $crate::moves::Memory for $Type {
            const WORDS: usize = 1;
            fn read(words: &[u32]) -> Self {
                let $word = words[0];
                $read
            }
            fn write(&self, words: &mut [u32]) {
                let $value = *self;
                words[0] = $write;
            }
        }
    )*};
}
pub(crate) use in_a_word;

in_a_word! {
    f32: |word| f32::from_bits(word), |value| value.to_bits();
    u32: |word| word, |value| value;
    u16: |word| word as u16, |value| value.into();
    u8: |word| word as u8, |value| value.into();
    bool: |word| word != 0, |value| value.into();
}

impl<T: Memory, const N: usize> Memory for [T; N] {
    const WORDS: usize = N * T::WORDS;
    fn read(words: &[u32]) -> Self {
        core::array::from_fn(|number| T::read(&words[number * T::WORDS..]))
    }
    fn write(&self, words: &mut [u32]) {
        for (number, one) in self.iter().enumerate() {
            one.write(&mut words[number * T::WORDS..]);
        }
    }
}

impl<A: Memory, B: Memory> Memory for (A, B) {
    const WORDS: usize = A::WORDS + B::WORDS;
    fn read(words: &[u32]) -> Self {
        (A::read(words), B::read(&words[A::WORDS..]))
    }
    fn write(&self, words: &mut [u32]) {
        self.0.write(words);
        self.1.write(&mut words[A::WORDS..]);
    }
}

/// `None` is all zeros.
impl<T: Memory> Memory for Option<T> {
    const WORDS: usize = 1 + T::WORDS;
    fn read(words: &[u32]) -> Self {
        (words[0] != 0).then(|| T::read(&words[1..]))
    }
    fn write(&self, words: &mut [u32]) {
        words[..Self::WORDS].fill(0);
        if let Some(value) = self {
            words[0] = 1;
            value.write(&mut words[1..]);
        }
    }
}

macro_rules! in_words {
    ($($Vector:ty: $words:literal;)*) => {$(
        impl Memory for $Vector {
            const WORDS: usize = $words;
            fn read(words: &[u32]) -> Self {
                Self::from_array(Memory::read(words))
            }
            fn write(&self, words: &mut [u32]) {
                Memory::write(&self.to_array(), words);
            }
        }
    )*};
}

in_words! {
    Vec2: 2;
    Vec3: 3;
}

/// Defines a struct that a move stores from tick to tick, and implements [`Memory`] for it.
///
/// ```
/// rasant::memory! {
///     /// A rope that is held.
///     pub struct Rope {
///         /// Where it hangs from, in the world.
///         pub anchor: Option<rasant::glam::Vec2>,
///         /// Its length, in metres.
///         pub length: f32,
///     }
/// }
/// assert_eq!(<Rope as rasant::moves::Memory>::WORDS, 4);
/// ```
#[macro_export]
macro_rules! memory {
    (
        $(#[$outer:meta])*
        $vis:vis struct $Name:ident $(<$V:ident>)? {
            $($(#[$inner:meta])* $field_vis:vis $field:ident: $Type:ty,)*
        }
    ) => {
        $(#[$outer])*
        #[derive(Clone, Copy, Debug, PartialEq)]
        $vis struct $Name $(<$V>)? {
            $($(#[$inner])* $field_vis $field: $Type,)*
        }

        impl $(<$V: $crate::Geometry>)? $crate::moves::Memory for $Name $(<$V>)? {
            const WORDS: usize = 0 $(+ <$Type as $crate::moves::Memory>::WORDS)*;

            fn read(words: &[u32]) -> Self {
                let mut at = 0;
                $(
                    let $field = <$Type as $crate::moves::Memory>::read(&words[at..]);
                    at += <$Type as $crate::moves::Memory>::WORDS;
                )*
                let _ = at;
                Self { $($field,)* }
            }

            fn write(&self, words: &mut [u32]) {
                let mut at = 0;
                $(
                    $crate::moves::Memory::write(&self.$field, &mut words[at..]);
                    at += <$Type as $crate::moves::Memory>::WORDS;
                )*
                let _ = at;
            }
        }
    };
}
