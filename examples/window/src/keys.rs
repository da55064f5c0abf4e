//! Converts the windowing package's keys and buttons to Rasant's.

use rasant::Key;
use rasant::input::PointerButton;
use winit::event::MouseButton;
use winit::keyboard::KeyCode;

/// Converts a key. The package uses the same `code` values, except for two that it shortens.
pub fn of_code(code: KeyCode) -> Option<Key> {
    match format!("{code:?}").as_str() {
        "SuperLeft" => Key::named("MetaLeft"),
        "SuperRight" => Key::named("MetaRight"),
        name => Key::named(name),
    }
}

pub fn of_pointer(button: MouseButton) -> Option<PointerButton> {
    Some(match button {
        MouseButton::Left => PointerButton::Main,
        MouseButton::Middle => PointerButton::Auxiliary,
        MouseButton::Right => PointerButton::Secondary,
        MouseButton::Back => PointerButton::Back,
        MouseButton::Forward => PointerButton::Forward,
        MouseButton::Other(_) => return None,
    })
}

#[cfg(feature = "gamepad")]
pub use pad::of_pad;

#[cfg(feature = "gamepad")]
mod pad {
    use gilrs::{Axis, Button, Event, EventType};
    use rasant::input::{PadAxis, PadButton};
    use rasant::{DeviceEvent, Press};

    /// Converts a gamepad event. Returns `None` for inputs outside the standard mapping.
    pub fn of_pad(event: &Event) -> Option<DeviceEvent> {
        let pad = usize::from(event.id) as u8;
        let pressed = |button, press| of_button(button).map(|button| DeviceEvent::Pad { pad, button, press });
        match event.event {
            EventType::ButtonPressed(button, _) => pressed(button, Press::Down),
            EventType::ButtonReleased(button, _) => pressed(button, Press::Up),
            EventType::AxisChanged(axis, value, _) => {
                // In this package y points up, in the standard mapping down.
                let (axis, value) = match axis {
                    Axis::LeftStickX => (PadAxis::LeftX, value),
                    Axis::LeftStickY => (PadAxis::LeftY, -value),
                    Axis::RightStickX => (PadAxis::RightX, value),
                    Axis::RightStickY => (PadAxis::RightY, -value),
                    _ => return None,
                };
                Some(DeviceEvent::PadMoved { pad, axis, value })
            }
            EventType::Disconnected => Some(DeviceEvent::FocusLost),
            _ => None,
        }
    }

    fn of_button(button: Button) -> Option<PadButton> {
        Some(match button {
            Button::South => PadButton::South,
            Button::East => PadButton::East,
            Button::West => PadButton::West,
            Button::North => PadButton::North,
            Button::LeftTrigger => PadButton::LeftShoulder,
            Button::RightTrigger => PadButton::RightShoulder,
            Button::LeftTrigger2 => PadButton::LeftTrigger,
            Button::RightTrigger2 => PadButton::RightTrigger,
            Button::Select => PadButton::Select,
            Button::Start => PadButton::Start,
            Button::LeftThumb => PadButton::LeftStick,
            Button::RightThumb => PadButton::RightStick,
            Button::DPadUp => PadButton::Up,
            Button::DPadDown => PadButton::Down,
            Button::DPadLeft => PadButton::Left,
            Button::DPadRight => PadButton::Right,
            Button::Mode => PadButton::Home,
            _ => return None,
        })
    }
}
