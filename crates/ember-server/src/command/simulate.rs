//! `soft-ember simulate`: the simulated drum into a WAV file.

use super::CommandError;
use super::measure::kind;
use clap::Args;
use ember_app::sound::write_wav;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::Placement;
use ember_core::drum::DrumKind;
use std::path::PathBuf;
use std::process::ExitCode;

#[derive(Args)]
pub struct Simulate {
    /// A usual drum of this kind: snare, tom, floor-tom, kick, ride and so on
    #[arg(long, value_parser = kind)]
    drum: DrumKind,
    /// How many, 1 to 200
    #[arg(long, default_value_t = 5, value_parser = clap::value_parser!(u16).range(1..=200))]
    strikes: u16,
    /// The same seed gives the same sound
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// A device on it, device[:amount[:radius[:angle]]], for example gel-pad:0:0.85:180; may be given again
    #[arg(long, value_name = "SPEC")]
    device: Vec<String>,
    /// 24-bit WAV, 48 kHz
    #[arg(long, value_name = "FILE")]
    out: PathBuf,
}

impl Simulate {
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let placements = self.device.iter().map(|spec| Placement::parse(spec)).collect::<Result<Vec<_>, _>>()?;
        let drum = BenchDrum::new(&BenchDrum::usual(self.drum), &placements)?;
        write_wav(&self.out, &drum.play(usize::from(self.strikes), self.seed), SAMPLE_RATE)?;
        Ok(ExitCode::SUCCESS)
    }
}
