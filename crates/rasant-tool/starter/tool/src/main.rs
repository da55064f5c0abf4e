//! All that `rasant` does, with the game's own move in it.

fn main() -> std::process::ExitCode {
    rasant_tool::main_of({lib}::game())
}
