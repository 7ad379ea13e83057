//! Openly licensed recordings of single hits on real drums, soft to hard, from two Debian packages: fetched once and kept out of the project.

use ember_app::sound::{ReadProgress, measure_file};
use ember_core::decay::HeardStrike;
use ember_core::drum::DrumKind;
use ember_core::tone::HeardBy;
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// Package, what of it may be unpacked, and the folder in which it lies then.
const PACKAGES: [(&str, &[&str]); 2] = [
    ("sonic-pi-samples", &["./usr/share/sonic-pi/samples/drum_*"]),
    ("hydrogen-drumkits", &["./usr/share/hydrogen/data/drumkits/B?A_*", "./usr/share/hydrogen/data/drumkits/M???o[-_]*"]),
];

/// Drum, how its files begin, and the folder they are in, each as the end of a path.
pub const TAKES: [(DrumKind, &str, &str); 21] = [
    (DrumKind::Kick, "drumkits/B", "BD_"),
    (DrumKind::Snare, "drumkits/B", "SN_"),
    (DrumKind::Snare, "drumkits/B", "SN3_"),
    (DrumKind::Snare, "drumkits/B", "SN4_"),
    (DrumKind::Tom, "drumkits/B", "TM_"),
    (DrumKind::FloorTom, "drumkits/B", "TM2_"),
    (DrumKind::Kick, "Layered2", "bd_"),
    (DrumKind::FloorTom, "Layered2", "floortom_"),
    (DrumKind::Snare, "Layered2", "jsnare_"),
    (DrumKind::Snare, "Layered2", "rsnare_"),
    (DrumKind::Tom, "Layered2", "tom_"),
    (DrumKind::Kick, "Layered3", "bd_"),
    (DrumKind::FloorTom, "Layered3", "ft_"),
    (DrumKind::Snare, "Layered3", "sd_"),
    (DrumKind::Tom, "Layered3", "t1_"),
    (DrumKind::Tom, "Layered3", "t2_"),
    (DrumKind::Kick, "samples", "drum_bass_"),
    (DrumKind::Snare, "samples", "drum_snare_"),
    (DrumKind::Tom, "samples", "drum_tom_hi_"),
    (DrumKind::Tom, "samples", "drum_tom_mid_"),
    (DrumKind::FloorTom, "samples", "drum_tom_lo_"),
];

/// The folder with the recordings; none where they cannot be fetched.
pub fn recordings() -> Option<PathBuf> {
    let folder = PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join("recordings");
    let run = |command: &mut Command| command.stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok_and(|status| status.success());
    for (package, wanted) in PACKAGES {
        let unpacked = folder.join(package);
        if unpacked.join("whole").exists() {
            continue;
        }
        std::fs::create_dir_all(&unpacked).ok()?;
        let fetched = run(Command::new("apt-get").args(["download", package]).current_dir(&unpacked));
        let file = std::fs::read_dir(&unpacked)
            .ok()?
            .flatten()
            .map(|entry| entry.path())
            .find(|path| path.extension().is_some_and(|e| e == "deb"));
        let file = file.filter(|_| fetched)?;
        let mut list =
            Command::new("dpkg-deb").arg("--fsys-tarfile").arg(&file).stdout(Stdio::piped()).stderr(Stdio::null()).spawn().ok()?;
        let archive = list.stdout.take()?;
        let unpack = run(Command::new("tar").args(["-x", "--wildcards"]).args(wanted).current_dir(&unpacked).stdin(archive));
        let listed = list.wait().is_ok_and(|status| status.success());
        std::fs::remove_file(&file).ok()?;
        (unpack && listed).then_some(())?;
        std::fs::write(unpacked.join("whole"), "").ok()?;
    }
    Some(folder)
}

/// Every sound under `folder`, in order.
pub fn sounds(folder: &Path) -> Vec<PathBuf> {
    let mut found = Vec::new();
    for path in std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path()) {
        match path.extension().and_then(|e| e.to_str()) {
            _ if path.is_dir() => found.extend(sounds(&path)),
            Some("aiff" | "flac") => found.push(path),
            _ => {}
        }
    }
    found.sort();
    found
}

pub fn is_of(path: &Path, folder: &str, start: &str) -> bool {
    let name = path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
    let parent = path.parent().map(|parent| parent.display().to_string()).unwrap_or_default();
    parent.contains(folder) && name.starts_with(start)
}

/// A recording of one hit, as it was found.
pub struct Hit {
    pub path: PathBuf,
    pub strikes: Vec<HeardStrike>,
}

pub fn hit(path: PathBuf) -> Hit {
    let name = path.display().to_string();
    let heard = measure_file(&path, &name, HeardBy::Partials, 60.0, 20, &ReadProgress::default(), |strike| strike).expect("a sound");
    Hit { path, strikes: heard.strikes }
}

impl Hit {
    /// Its one strike, where it has one and no more.
    pub fn strike(&self) -> Option<&HeardStrike> {
        if let [strike] = self.strikes.as_slice() { Some(strike) } else { None }
    }
}

/// The takes of [`TAKES`], each with the hits that were found in its files; none where the recordings cannot be fetched.
pub fn takes() -> Option<Vec<(DrumKind, Vec<Hit>)>> {
    let files = sounds(&recordings()?);
    let hits = |folder: &str, start: &str| files.iter().filter(|path| is_of(path, folder, start)).cloned().map(hit).collect();
    Some(TAKES.iter().map(|(kind, folder, start)| (*kind, hits(folder, start))).collect())
}

/// `count` hits, the five loudest in turn, over the hiss of a room: noise of up to `hiss` (full scale 1). The n-th is followed by
/// at least `rest(n)` samples without a hit.
pub fn played(hits: &[Hit], count: usize, rest: impl Fn(usize) -> usize, hiss: f32) -> Vec<f32> {
    let mut strikes: Vec<_> = hits.iter().filter_map(Hit::strike).filter(|s| s.measurement.warnings.is_empty()).collect();
    strikes.sort_by(|a, b| b.measurement.peak_dbfs.total_cmp(&a.measurement.peak_dbfs));
    strikes.truncate(5);
    let mut sound = vec![0.0; 60_000];
    for (n, strike) in strikes.iter().cycle().take(count).enumerate() {
        sound.extend(&strike.captured.samples);
        let next = sound.len().next_multiple_of(44_100) + rest(n);
        sound.resize(next, 0.0);
    }
    let mut noise = StdRng::seed_from_u64(4);
    sound.iter().map(|x| x + noise.random_range(-hiss..hiss)).collect()
}
