//! `rasant`: movement trials, run, played and shown.

fn main() -> std::process::ExitCode {
    rasant_tool::main()
}
