//! Every message between the page and the tool, in both directions.
//!
//! The types here are the only definition. `page/messages.d.ts`, which the page's scripts are
//! checked against, and `page/messages.js`, by which the page rejects fields that it does not know,
//! are generated from them; a test keeps both current. After a change, run `RASANT_BLESS=1 cargo
//! test -p rasant-tool messages` and then the check of the page.

mod answer;
#[cfg(test)]
mod generate;
mod request;

pub use answer::{
    Answer, Arm, Binding, Bindings, Body, Camera, ColumnInfo, Control, Debug, DebugContact, DebugTimer,
    Event, Exported, Figure, Frame, Ghost, Ghosts, Hello, Hull, KnobInfo, Link, Maneuver, Measurement,
    Moment, Numbers, Other, Outline, PieceEdit, Pieces, Place, PlacePart, Replayed, Series, Shape, Tick,
    Value, Zone, ZoneKind,
};
pub use request::{PlayerInput, Request, milliseconds};
