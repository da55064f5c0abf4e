//! A game's command line: everything that `rasant` does, with the game's own move.
//!
//! `cargo run -p rope-swing -- knobs swing`, `-- sheet`, `-- check
//! examples/rope-swing/data/over-the-canal.toml`, `-- play …`.

use rasant_tool::Game;

fn main() -> std::process::ExitCode {
    rasant_tool::main_of(Game {
        moves: Some(&rope_swing::MOVES),
        figures: rope_swing::FIGURES,
        ..Game::default()
    })
}
