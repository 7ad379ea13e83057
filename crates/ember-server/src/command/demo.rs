//! `soft-ember demo`: a kit, a shelf and a history to look at, made from the files in `demo/` and the simulated drum.

use super::CommandError;
use super::serve::{Address, data_folder};
use crate::state::{AppState, now_ms};
use clap::Args;
use ember_app::learning::{as_on_shelf, tests, trials};
use ember_app::sound::kept_sound;
use ember_app::tuning::simulated_drum;
use ember_core::Patience;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::{Learned, Placement};
use ember_core::decay::{Dynamic, HeardStrike, Listener};
use ember_core::drum::{Drum, Front, Head, HeadSide};
use ember_core::kick::FrontPredictor;
use ember_core::plan::{Limits, Offer, Plan, Question, ShelfItem, evaluate, front_trial};
use ember_core::target::{OpenSound, Song};
use ember_core::venue::Venue;
use ember_store::{Contents, Entry, KeptDrum, KeptTonight, Kit, KitDrum, NewStrike, SetList, Source, Store};
use rayon::prelude::*;
use serde::Deserialize;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

const KIT: &str = include_str!("../../../../demo/kit.json");
const KITS: &str = include_str!("../../../../demo/kits.json");
const SHELF: &str = include_str!("../../../../demo/shelf.json");
const TONIGHT: &str = include_str!("../../../../demo/tonight.json");
const VENUES: &str = include_str!("../../../../demo/venues.json");
const SONGS: &str = include_str!("../../../../demo/songs.json");
const SET_LISTS: &str = include_str!("../../../../demo/set_lists.json");
const HISTORY: &str = include_str!("../../../../demo/history.json");

#[derive(Args)]
pub struct Demo {
    /// The demonstration's data file [default: in this user's data folder]
    #[arg(long, value_name = "FILE")]
    data: Option<PathBuf>,
    /// Forgets what was done in the demonstration and makes it anew
    #[arg(long)]
    fresh: bool,
    #[command(flatten)]
    address: Address,
}

impl Demo {
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let path = match self.data {
            Some(path) => path,
            None => data_folder()?.join("demo.sqlite"),
        };
        let contents = Store::contents(&path)?;
        if contents == Contents::Own && !is_from_before_marks(&path) {
            return Err(CommandError::OwnKit(path));
        }
        if self.fresh || contents == Contents::Nothing {
            if contents != Contents::Nothing {
                let copy = Store::copy_before_fresh(&path)?;
                eprintln!("What was there is kept at {}.", copy.display());
            }
            make_demo(&path, |done, all| eprintln!("Making the demonstration kit: {done} of {all} ..."))?;
        }
        let mut state = AppState::open(&path, false)?;
        state.with_store(Store::mark_as_demonstration)?;
        state.demo = true;
        eprintln!("Data: {}", path.display());
        self.address.serve(state)
    }
}

/// What is played, by names.
#[derive(Deserialize)]
struct DemoTonight {
    venue: String,
    set_list: String,
    song: String,
    #[serde(flatten)]
    limits: Limits,
}

/// A kit and its drums, by names.
#[derive(Deserialize)]
struct DemoKit {
    name: String,
    drums: Vec<String>,
    /// Those of them that stay in their cases.
    #[serde(default)]
    in_case: Vec<String>,
}

#[derive(Deserialize)]
struct DemoSetList {
    name: String,
    gap_s: f64,
    lines: Vec<Line>,
}

#[derive(Deserialize)]
#[serde(untagged)]
enum Line {
    Song {
        song: String,
        #[serde(default)]
        gap_s: Option<f64>,
    },
    Break {
        #[serde(rename = "break")]
        title: String,
        seconds: f64,
    },
}

/// Something that happened to a drum.
#[derive(Deserialize)]
struct Happening {
    drum: String,
    days_ago: f64,
    #[serde(flatten)]
    what: What,
}

#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum What {
    /// It was struck, open or as it was treated then.
    Strikes { count: usize, seed: u64 },
    /// The same, `each` times softly, at medium strength and hard.
    Dynamics { each: usize, seed: u64 },
    /// Another batter head was put on.
    NewBatter(Head),
    /// Devices were put on in place of what was on it (see [`Placement::parse`]); an empty list takes them off.
    PutOn(Vec<String>),
    /// Its other end was closed so for a while (see [`Front::parse`]).
    TryFront(String),
}

/// Whether the file at `path` is the demonstration's usual one from before such files were marked.
fn is_from_before_marks(path: &Path) -> bool {
    data_folder().is_ok_and(|folder| path == folder.join("demo.sqlite"))
}

/// Makes the demonstration's data file at `path`, in place of one that is there; all of it or nothing.
pub fn make_demo(path: &Path, progress: impl Fn(usize, usize)) -> Result<(), CommandError> {
    if let Some(folder) = path.parent() {
        std::fs::create_dir_all(folder).map_err(|error| CommandError::Folder { path: folder.into(), error })?;
    }
    let unfinished = path.with_extension("unfinished");
    remove(&unfinished)?;
    {
        let mut store = Store::open(&unfinished)?;
        store.mark_as_demonstration()?;
        fill(&mut store, progress)?;
    }
    remove(path)?;
    for leftover in [".lock", ".reserve"] {
        let mut name = unfinished.as_os_str().to_owned();
        name.push(leftover);
        // They are of no use to the finished file.
        let _ = std::fs::remove_file(name);
    }
    std::fs::rename(&unfinished, path).map_err(|error| CommandError::Unwritable { path: path.into(), error })
}

/// Removes a data file with what SQLite keeps beside it: a leftover journal would be taken for the next file's.
fn remove(path: &Path) -> Result<(), CommandError> {
    for ending in ["", "-wal", "-shm", ".lock", ".reserve"] {
        let mut name = path.as_os_str().to_owned();
        name.push(ending);
        match std::fs::remove_file(&name) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
                return Err(CommandError::Unremovable { path: name.into(), error });
            }
            _ => {}
        }
    }
    Ok(())
}

/// The demonstration speaks of a `what` called `name` that it does not have.
fn unnamed(what: &'static str, name: &str) -> CommandError {
    CommandError::DemoUnnamed { what, name: name.to_string() }
}

fn fill(store: &mut Store, progress: impl Fn(usize, usize)) -> Result<(), CommandError> {
    let drums: Vec<Drum> = serde_json::from_str(KIT).map_err(CommandError::DemoDamaged)?;
    let shelf: Vec<ShelfItem> = serde_json::from_str(SHELF).map_err(CommandError::DemoDamaged)?;
    let history: Vec<Happening> = serde_json::from_str(HISTORY).map_err(CommandError::DemoDamaged)?;
    let kept = drums.iter().map(|drum| store.add_drum(drum)).collect::<Result<Vec<_>, _>>()?;
    fill_kits(store, &kept)?;
    for item in shelf {
        store.set_shelf_item(item)?;
    }
    fill_tonight(store)?;
    for (done, happening) in history.iter().enumerate() {
        progress(done + 1, history.len());
        let drum = kept.iter().find(|kept| kept.drum.name == happening.drum);
        let drum = drum.ok_or_else(|| unnamed("drum", &happening.drum))?;
        // As it is by now: its heads may have been changed.
        let drum = &store.drum(drum.id)?;
        let at = now_ms() - (happening.days_ago * 86_400_000.0) as i64;
        match &happening.what {
            What::Strikes { count, seed } => strike(store, drum, &vec![None; *count], *seed, at)?,
            What::Dynamics { each, seed } => {
                let asked: Vec<Option<Dynamic>> = Dynamic::ALL.into_iter().flat_map(|dynamic| vec![Some(dynamic); *each]).collect();
                strike(store, drum, &asked, *seed, at)?;
            }
            What::NewBatter(head) => {
                store.change_head(drum.id, HeadSide::Batter, *head, at)?;
            }
            What::PutOn(specs) => put_on(store, drum, specs, at)?,
            What::TryFront(front) => try_front(store, drum, front, at)?,
        }
    }
    Ok(())
}

/// Which of the drums stand together; the first of the kits is tonight's.
fn fill_kits(store: &mut Store, drums: &[KeptDrum]) -> Result<(), CommandError> {
    let kits: Vec<DemoKit> = serde_json::from_str(KITS).map_err(CommandError::DemoDamaged)?;
    let mut begun = store.kit_tonight()?;
    for DemoKit { name, drums: names, in_case } in kits {
        let at = |name: &String| {
            let drum = drums.iter().find(|kept| kept.drum.name == *name);
            let drum = drum.ok_or_else(|| unnamed("drum", name))?;
            Ok::<_, CommandError>(KitDrum { in_case: in_case.contains(name), ..KitDrum::set_up(drum.id) })
        };
        let drums = names.iter().map(at).collect::<Result<_, _>>()?;
        let kit = Kit { name, drums, borrowed: false, venue_id: None };
        match begun.take() {
            Some(first) => store.change_kit(first.id, &kit)?,
            None => store.add_kit(&kit)?,
        };
    }
    Ok(())
}

/// Venues, songs, set lists, and what of them is on tonight.
fn fill_tonight(store: &mut Store) -> Result<(), CommandError> {
    let venues: Vec<Venue> = serde_json::from_str(VENUES).map_err(CommandError::DemoDamaged)?;
    let songs: Vec<Song> = serde_json::from_str(SONGS).map_err(CommandError::DemoDamaged)?;
    let set_lists: Vec<DemoSetList> = serde_json::from_str(SET_LISTS).map_err(CommandError::DemoDamaged)?;
    let tonight: DemoTonight = serde_json::from_str(TONIGHT).map_err(CommandError::DemoDamaged)?;
    let venues = venues.iter().map(|venue| store.add_venue(venue)).collect::<Result<Vec<_>, _>>()?;
    let songs = songs.iter().map(|song| store.add_song(song)).collect::<Result<Vec<_>, _>>()?;
    let song_id =
        |title: &str| songs.iter().find(|song| song.song.title == title).map(|song| song.id).ok_or_else(|| unnamed("song", title));
    let mut chosen = None;
    for DemoSetList { name, gap_s, lines } in set_lists {
        let entry = |line| {
            Ok::<_, CommandError>(match line {
                Line::Song { song, gap_s } => Entry::of(song_id(&song)?, gap_s),
                Line::Break { title, seconds } => Entry::Break { title, seconds },
            })
        };
        let entries = lines.into_iter().map(entry).collect::<Result<_, _>>()?;
        let list = store.add_set_list(&SetList { name, gap_s, entries, kit_id: None, date: None })?;
        if list.set_list.name == tonight.set_list {
            chosen = Some(list.id);
        }
    }
    let venue = venues.iter().find(|kept| kept.venue.name == tonight.venue).ok_or_else(|| unnamed("venue", &tonight.venue))?;
    let song = song_id(&tonight.song)?;
    let now = KeptTonight {
        limits: tonight.limits,
        song_id: Some(song),
        venue_id: Some(venue.id),
        set_list_id: Some(chosen.ok_or_else(|| unnamed("set list", &tonight.set_list))?),
        music: store.song(song)?.song.music,
        kit_id: None,
    };
    Ok(store.set_tonight(&now)?)
}

/// One strike for each of `asked`, as hard as that says.
fn strike(store: &mut Store, kept: &KeptDrum, asked: &[Option<Dynamic>], seed: u64, at: i64) -> Result<(), CommandError> {
    let on = store.treatment_on(kept.id)?;
    let drum = simulated_drum(store, kept, on.as_ref())??;
    let hits: Vec<Vec<f32>> =
        asked.par_iter().enumerate().map(|(index, dynamic)| drum.strike_as(seed, index, BenchDrum::how_hard(*dynamic))).collect();
    let mut listener = Listener::hearing(f64::from(SAMPLE_RATE), kept.drum.heard_by());
    let mut heard: Vec<HeardStrike> = listener.push(&[drum.lead(seed), hits.concat()].concat());
    heard.extend(listener.finish());
    if heard.len() != asked.len() {
        return Err(CommandError::DemoUnheard { name: kept.drum.name.clone(), struck: asked.len(), heard: heard.len() });
    }
    heard.iter_mut().zip(asked).for_each(|(strike, dynamic)| strike.measurement.dynamic = *dynamic);
    let sounds = heard.iter().map(|strike| kept_sound(&strike.captured.samples, SAMPLE_RATE)).collect::<Result<Vec<_>, _>>()?;
    let strikes: Vec<NewStrike> = heard
        .iter()
        .zip(&sounds)
        .map(|(strike, sound)| NewStrike { measurement: &strike.measurement, sound, onset_index: strike.captured.onset_index })
        .collect();
    store.add_take(kept.id, Source::Simulated, None, at, &strikes)?;
    Ok(())
}

fn try_front(store: &mut Store, kept: &KeptDrum, front: &str, at: i64) -> Result<(), CommandError> {
    let front = Front::parse(front)?;
    carry_out(store, kept, at, |question| {
        let predictor = FrontPredictor::new(question.drum, question.partials, question.profile)?;
        Some(front_trial(question, predictor.outlook(&front), Vec::new()))
    })
}

fn put_on(store: &mut Store, kept: &KeptDrum, specs: &[String], at: i64) -> Result<(), CommandError> {
    if specs.is_empty() {
        let on = store.treatment_on(kept.id)?;
        on.map(|on| store.take_off(on.id, at)).transpose()?;
        return Ok(());
    }
    let placements = specs.iter().map(|spec| Placement::parse(spec)).collect::<Result<Vec<_>, _>>()?;
    carry_out(store, kept, at, |question| evaluate(question, Offer::Least, &as_on_shelf(placements, question.shelf)))
}

/// Puts on the drum what `plan` makes of it as it was last struck open.
fn carry_out(store: &mut Store, kept: &KeptDrum, at: i64, plan: impl FnOnce(&Question) -> Option<Plan>) -> Result<(), CommandError> {
    let open = store.newest_take(kept.id, None)?;
    let open = open.ok_or_else(|| CommandError::DemoNotStruck(kept.drum.name.clone()))?;
    let shelf = store.shelf()?;
    let scene = store.scene()?;
    let learned = Learned::from_trials(&trials(&tests(&store.device_tests()?, &shelf)));
    let question = Question {
        drum: &kept.drum,
        partials: &open.partials,
        profile: &open.summary.profile,
        wanted: scene.wanted(&kept.drum, Some(&OpenSound::new(&open.partials, &open.summary))),
        shelf: &shelf,
        limits: scene.limits,
        strengths: &learned.on(&kept.drum),
        patience: Patience::ENDLESS,
    };
    let plan = plan(&question).ok_or_else(|| CommandError::DemoNoBody(kept.drum.name.clone()))?;
    store.put_on(kept.id, open.id, &plan, at)?;
    Ok(())
}
