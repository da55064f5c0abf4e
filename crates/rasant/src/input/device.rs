//! Device events, in terms that every platform shares.
//!
//! Keys are named by the `code` values of W3C UI Events: the position of a key, whatever is printed
//! on it. Gamepads follow the W3C standard mapping.

use core::fmt;
use core::time::Duration;

use crate::name::{NameError, by_text};

/// A key, by its position.
///
/// ```
/// use rasant::Key;
///
/// let key = Key::named("ArrowLeft").expect("a code of UI Events");
/// assert_eq!(key.code(), "ArrowLeft");
/// assert!("Arrow".parse::<Key>().is_err());
/// ```
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Key(u8);

/// The `code` values of W3C UI Events, "KeyboardEvent code Values".
const CODES: &[&str] = &[
    "Backquote",
    "Backslash",
    "BracketLeft",
    "BracketRight",
    "Comma",
    "Digit0",
    "Digit1",
    "Digit2",
    "Digit3",
    "Digit4",
    "Digit5",
    "Digit6",
    "Digit7",
    "Digit8",
    "Digit9",
    "Equal",
    "IntlBackslash",
    "IntlRo",
    "IntlYen",
    "KeyA",
    "KeyB",
    "KeyC",
    "KeyD",
    "KeyE",
    "KeyF",
    "KeyG",
    "KeyH",
    "KeyI",
    "KeyJ",
    "KeyK",
    "KeyL",
    "KeyM",
    "KeyN",
    "KeyO",
    "KeyP",
    "KeyQ",
    "KeyR",
    "KeyS",
    "KeyT",
    "KeyU",
    "KeyV",
    "KeyW",
    "KeyX",
    "KeyY",
    "KeyZ",
    "Minus",
    "Period",
    "Quote",
    "Semicolon",
    "Slash",
    "AltLeft",
    "AltRight",
    "Backspace",
    "CapsLock",
    "ContextMenu",
    "ControlLeft",
    "ControlRight",
    "Enter",
    "MetaLeft",
    "MetaRight",
    "ShiftLeft",
    "ShiftRight",
    "Space",
    "Tab",
    "Convert",
    "KanaMode",
    "Lang1",
    "Lang2",
    "Lang3",
    "Lang4",
    "Lang5",
    "NonConvert",
    "Delete",
    "End",
    "Help",
    "Home",
    "Insert",
    "PageDown",
    "PageUp",
    "ArrowDown",
    "ArrowLeft",
    "ArrowRight",
    "ArrowUp",
    "NumLock",
    "Numpad0",
    "Numpad1",
    "Numpad2",
    "Numpad3",
    "Numpad4",
    "Numpad5",
    "Numpad6",
    "Numpad7",
    "Numpad8",
    "Numpad9",
    "NumpadAdd",
    "NumpadBackspace",
    "NumpadClear",
    "NumpadClearEntry",
    "NumpadComma",
    "NumpadDecimal",
    "NumpadDivide",
    "NumpadEnter",
    "NumpadEqual",
    "NumpadHash",
    "NumpadMemoryAdd",
    "NumpadMemoryClear",
    "NumpadMemoryRecall",
    "NumpadMemoryStore",
    "NumpadMemorySubtract",
    "NumpadMultiply",
    "NumpadParenLeft",
    "NumpadParenRight",
    "NumpadStar",
    "NumpadSubtract",
    "Escape",
    "F1",
    "F2",
    "F3",
    "F4",
    "F5",
    "F6",
    "F7",
    "F8",
    "F9",
    "F10",
    "F11",
    "F12",
    "F13",
    "F14",
    "F15",
    "F16",
    "F17",
    "F18",
    "F19",
    "F20",
    "F21",
    "F22",
    "F23",
    "F24",
    "Fn",
    "FnLock",
    "PrintScreen",
    "ScrollLock",
    "Pause",
    "BrowserBack",
    "BrowserFavorites",
    "BrowserForward",
    "BrowserHome",
    "BrowserRefresh",
    "BrowserSearch",
    "BrowserStop",
    "Eject",
    "LaunchApp1",
    "LaunchApp2",
    "LaunchMail",
    "MediaPlayPause",
    "MediaSelect",
    "MediaStop",
    "MediaTrackNext",
    "MediaTrackPrevious",
    "Power",
    "Sleep",
    "AudioVolumeDown",
    "AudioVolumeMute",
    "AudioVolumeUp",
    "WakeUp",
];

impl Key {
    /// The key with this `code` value, as `KeyA`, `Space` or `ArrowLeft`.
    #[must_use]
    pub fn named(code: &str) -> Option<Self> {
        CODES.iter().position(|known| *known == code).map(|place| Self(place as u8))
    }

    /// The `code` value.
    #[must_use]
    pub fn code(self) -> &'static str {
        CODES[usize::from(self.0)]
    }

    /// Every key.
    pub fn all() -> impl Iterator<Item = Self> {
        (0..CODES.len() as u8).map(Self)
    }
}

impl fmt::Display for Key {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.code())
    }
}

impl core::str::FromStr for Key {
    type Err = NameError;

    fn from_str(code: &str) -> Result<Self, NameError> {
        Self::named(code).ok_or_else(|| NameError::unknown(code))
    }
}

by_text!(Key);

impl fmt::Debug for Key {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.code())
    }
}

/// Defines an enum whose values have names, in the order of their numbers.
macro_rules! named {
    ($(#[doc = $doc:literal])* $Name:ident { $($(#[doc = $item_doc:literal])* $item:ident = $name:literal,)* }) => {
        $(#[doc = $doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
        pub enum $Name {
            $($(#[doc = $item_doc])* $item,)*
        }

        impl $Name {
            /// All values, in the order of their numbers.
            pub const ALL: &'static [Self] = &[$(Self::$item),*];

            /// The name, as in files.
            #[must_use]
            pub fn name(self) -> &'static str {
                match self {
                    $(Self::$item => $name,)*
                }
            }

            /// The value with this name.
            #[must_use]
            pub fn named(name: &str) -> Option<Self> {
                Self::ALL.iter().copied().find(|one| one.name() == name)
            }
        }

        impl fmt::Display for $Name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.pad(self.name())
            }
        }

        impl core::str::FromStr for $Name {
            type Err = NameError;

            fn from_str(name: &str) -> Result<Self, NameError> {
                Self::named(name).ok_or_else(|| NameError::unknown(name))
            }
        }
    };
}

named! {
    /// A button of a gamepad, in the order of the W3C standard mapping.
    PadButton {
        /// Button 0, the lowest of the right cluster.
        South = "south",
        /// Button 1.
        East = "east",
        /// Button 2.
        West = "west",
        /// Button 3, the highest of the right cluster.
        North = "north",
        /// Button 4.
        LeftShoulder = "left-shoulder",
        /// Button 5.
        RightShoulder = "right-shoulder",
        /// Button 6.
        LeftTrigger = "left-trigger",
        /// Button 7.
        RightTrigger = "right-trigger",
        /// Button 8.
        Select = "select",
        /// Button 9.
        Start = "start",
        /// Button 10: the left stick pressed down.
        LeftStick = "left-stick",
        /// Button 11: the right stick pressed down.
        RightStick = "right-stick",
        /// Button 12.
        Up = "up",
        /// Button 13.
        Down = "down",
        /// Button 14.
        Left = "left",
        /// Button 15.
        Right = "right",
        /// Button 16, in the centre.
        Home = "home",
    }
}

named! {
    /// An axis of a gamepad, in the order of the W3C standard mapping: −1 is left
    /// or up, +1 right or down.
    PadAxis {
        /// Axis 0.
        LeftX = "left-x",
        /// Axis 1.
        LeftY = "left-y",
        /// Axis 2.
        RightX = "right-x",
        /// Axis 3.
        RightY = "right-y",
    }
}

named! {
    /// A button of the pointer, in the order of W3C Pointer Events.
    PointerButton {
        /// Button 0, usually the left one.
        Main = "main",
        /// Button 1, usually the wheel.
        Auxiliary = "auxiliary",
        /// Button 2, usually the right one.
        Secondary = "secondary",
        /// Button 3.
        Back = "back",
        /// Button 4.
        Forward = "forward",
    }
}

named! {
    /// A direction in which the wheel is turned.
    WheelTurn {
        /// Away from the user.
        Up = "up",
        /// Toward the user.
        Down = "down",
    }
}

/// Whether something is pressed or released.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Press {
    /// Pressed. Repeats of a key that is held down are ignored.
    Down,
    /// Released.
    Up,
}

/// An event of an input device.
///
/// ```
/// use core::time::Duration;
/// use rasant::{Actions, Bindings, DeviceEvent, Key, Press, Sampler};
///
/// let mut sampler = Sampler::new(Bindings::default());
/// let space = Key::named("Space").expect("a key");
/// sampler.event(Duration::from_millis(4), DeviceEvent::Key(space, Press::Down));
/// assert!(sampler.tick(Duration::from_millis(16)).held.contains(Actions::JUMP));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum DeviceEvent {
    /// A key was pressed or released.
    Key(Key, Press),
    /// A button of gamepad `pad` was pressed or released.
    Pad {
        /// The gamepad, from 0.
        pad: u8,
        /// The button.
        button: PadButton,
        /// Pressed or released.
        press: Press,
    },
    /// An axis of gamepad `pad` moved.
    PadMoved {
        /// The gamepad, from 0.
        pad: u8,
        /// The axis.
        axis: PadAxis,
        /// The new position, −1 to 1.
        value: f32,
    },
    /// A button of the pointer was pressed or released.
    Pointer(PointerButton, Press),
    /// The wheel was turned by one notch. It counts as pressed and released at once, so that one
    /// tick sees it, like a tap.
    Wheel(WheelTurn),
    /// The pointer moved by a number of counts.
    PointerMoved {
        /// Counts to the right.
        x: f32,
        /// Counts downward.
        y: f32,
    },
    /// The window lost the focus: everything counts as released.
    FocusLost,
}

/// A device event with its time.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct TimedEvent {
    /// Since the start of the game's clock.
    pub time: Duration,
    /// The event.
    pub event: DeviceEvent,
}
