//! Words of earlier files, and what they are called now.

/// Old and new: keys of tunings, figures of sheets and of runs, states, and phases of
/// maneuvers.
pub const RENAMED: &[(&str, &str)] = &[
    ("steepest_deg", "max_angle_deg"),
    ("curb", "step_height"),
    ("cling", "ground_snap"),
    ("windup", "startup"),
    ("drive", "active"),
    ("recover", "recovery"),
    ("rest", "cooldown"),
    ("windup_locks", "startup_locks"),
    ("drive_locks", "active_locks"),
    ("recover_locks", "recovery_locks"),
    ("most_time", "max_time"),
    ("dash.time", "dash.active"),
    ("roll.time", "roll.active"),
    ("dash.aloft", "dash.air_count"),
    ("afoot", "grounded"),
    ("aloft", "airborne"),
    ("steepest-climbed", "slope-climbed"),
    ("curb-climbed", "step-climbed"),
    ("dash-rest", "dash-cooldown"),
    ("slam-recover-time", "slam-recovery-time"),
];

/// What a word of earlier files is called now: alone, or as the last part of a path.
pub fn renamed(word: &str) -> Option<String> {
    let new = |old: &str| RENAMED.iter().find(|(word, _)| *word == old).map(|(_, new)| *new);
    if let Some(new) = new(word) {
        return Some(new.to_owned());
    }
    if let Some(distance) = word.strip_suffix("-way") {
        return Some(format!("{distance}-distance"));
    }
    let (group, key) = word.rsplit_once('.')?;
    Some(format!("{group}.{}", new(key)?))
}
