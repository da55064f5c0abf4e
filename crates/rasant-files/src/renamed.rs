//! Words of earlier versions, and their new names.

/// Old and new words: keys of tunings, figures of sheets and of runs, states, events, verbs of
/// scripts, and phases of maneuvers.
pub const RENAMED: &[(&str, &str)] = &[
    ("steepest_deg", "max_angle_deg"),
    ("curb", "step_height"),
    ("cling", "ground_snap"),
    ("windup", "startup"),
    ("drive", "active"),
    ("recover", "recovery"),
    ("rest", "cooldown"),
    ("windup_locks", "startup_mutes"),
    ("drive_locks", "active_mutes"),
    ("recover_locks", "recovery_mutes"),
    ("startup_locks", "startup_mutes"),
    ("active_locks", "active_mutes"),
    ("recovery_locks", "recovery_mutes"),
    ("launch", "throw"),
    ("eight_ways", "eight_directions"),
    ("ladder-taken", "ladder-grabbed"),
    ("face.steer", "face.course"),
    ("face.look", "face.eyes"),
    ("face.fixed", "face.host"),
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

/// The new name of a word of earlier versions: of the word itself, or of the last part of a path.
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
