//! Lists of songs as files: CSV with a header line, or JSON as the API speaks it.

use ember_core::decay::Dynamic;
use ember_core::plain_name;
use ember_core::target::{Dynamics, Feel, Gaps, InvalidSong, Meter, Music, NO_GENRE, NoteValue, School, Song, UnknownMeter};
use ember_store::{KeptPreset, KeptSong};
use ember_words::{Said, Say, Text, Words, text, words};
use serde::{Serialize, de::DeserializeOwned};
use std::collections::HashMap;
use utoipa::ToSchema;

/// One row of a list that is to be read in.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ReadSong {
    /// Line in the file (CSV) or number in the list (JSON), from 1.
    pub line: usize,
    /// The row's title, as far as it has one.
    pub title: String,
    /// The song, where one can be made of the row.
    pub song: Option<Song>,
    /// What is wrong: the song is taken in only if the user says so, or not at all where there is none.
    pub problem: Option<Words>,
    /// What was filled in.
    pub note: Option<Words>,
    /// Number of a song with the same title that is kept already.
    pub known_as: Option<i64>,
    /// Whether that song is the same in everything.
    pub same: bool,
    /// Line on which the list itself has the title before.
    pub again_from_line: Option<usize>,
}

/// Most songs in one import.
pub const MOST_SONGS: usize = 20_000;

const COLUMNS: [&str; 13] = [
    "title",
    "genre",
    "bpm",
    "meter",
    "feel",
    "snare_gap",
    "tom_gap",
    "floor_tom_gap",
    "kick_gap",
    "softest",
    "hardest",
    "school",
    "notes",
];

/// The text of a list: UTF-8 or UTF-16 as marked, UTF-8 if it can be, else what spreadsheets of the West write (windows-1252).
pub fn as_text(bytes: &[u8]) -> String {
    match (encoding_rs::Encoding::for_bom(bytes), std::str::from_utf8(bytes)) {
        (Some((encoding, _)), _) => encoding.decode(bytes).0.into_owned(),
        (None, Ok(text)) => text.to_string(),
        (None, Err(_)) => encoding_rs::WINDOWS_1252.decode(bytes).0.into_owned(),
    }
}

/// Why a file is no list of songs.
#[derive(Debug, thiserror::Error, Said)]
pub enum NoSongList {
    /// There is nothing in it.
    #[said("The file is empty.")]
    Empty,
    /// It has more songs than are taken at once.
    #[said("The list is far too long: {MOST_SONGS} songs at once are the most.")]
    TooLong,
    /// It has a header and nothing else.
    #[said("The file has no songs in it.")]
    NoSongs,
    /// It begins like JSON and is none.
    #[said("This is no JSON that can be read: {}.", .0.to_string())]
    Json(#[from] serde_json::Error),
    /// Its JSON is an object without songs.
    #[said("The JSON must be a list of songs, or hold one called \"songs\".")]
    NoListInside,
    /// Its JSON is something else.
    #[said("The JSON must be a list of songs.")]
    NoList,
    /// Its first line is no line of CSV.
    #[said("The first line cannot be read: {}.", .0.to_string())]
    FirstLine(#[from] csv::Error),
    /// Its first line names no titles.
    #[said("The first line must name the columns, with \"title\" among them. All there are: {}.", COLUMNS.join(", "))]
    NoTitles,
}

/// What is wrong with one row of a list.
#[derive(Debug, thiserror::Error, Said)]
enum NoSong {
    #[said("It cannot be read: {}.", .0.to_string())]
    Json(#[from] serde_json::Error),
    #[said("The line cannot be read: {}.", .0.to_string())]
    Line(#[from] csv::Error),
    #[said("It has no tempo.")]
    NoTempo,
    #[said("\"{text}\" is no {what}.")]
    UnknownWord { text: String, what: Text },
    #[said(transparent)]
    Meter(#[from] UnknownMeter),
    #[said(transparent)]
    Invalid(#[from] InvalidSong),
    #[said("There is no genre \"{0}\". It would be taken as general.")]
    UnknownGenre(String),
}

/// Why a list of songs could not be written.
#[derive(Debug, thiserror::Error, Said)]
pub enum UnwritableList {
    /// As CSV.
    #[said("{}", .0.to_string())]
    Csv(#[from] csv::Error),
    /// As text.
    #[said("{}", .0.to_string())]
    Text(#[from] std::string::FromUtf8Error),
    /// As JSON.
    #[said("{}", .0.to_string())]
    Json(#[from] serde_json::Error),
}

/// Reads a list of songs and holds each against those `known`.
///
/// # Errors
/// What is wrong with the file as a whole; what is wrong with a row stands in it.
pub fn read_songs(text: &str, presets: &[KeptPreset], known: &[KeptSong]) -> Result<Vec<ReadSong>, NoSongList> {
    let text = text.trim_start_matches('\u{feff}').trim_start();
    if text.is_empty() {
        return Err(NoSongList::Empty);
    }
    // Counted before anything is made of it: a list of millions must not fill the memory first.
    let is_json = text.starts_with(['[', '{']);
    let about = if is_json { text.matches('{').count() / 4 } else { text.lines().count() / 4 };
    if about > MOST_SONGS {
        return Err(NoSongList::TooLong);
    }
    let rows = if text.starts_with(['[', '{']) { from_json(text)? } else { from_csv(text)? };
    if rows.is_empty() {
        return Err(NoSongList::NoSongs);
    }
    let mut by_title: HashMap<String, Vec<&KeptSong>> = HashMap::new();
    for song in known {
        by_title.entry(song.song.title.to_lowercase()).or_default().push(song);
    }
    let mut lines: HashMap<String, usize> = HashMap::new();
    Ok(rows
        .into_iter()
        .map(|Row { line, title, song }| {
            let mut read =
                ReadSong { line, title, song: None, problem: None, note: None, known_as: None, same: false, again_from_line: None };
            match song {
                Err(problem) => read.problem = Some(problem.words()),
                Ok(song) => judge(song, presets, &mut read),
            }
            let key = read.title.trim().to_lowercase();
            if !key.is_empty() {
                if let Some(songs) = by_title.get(&key) {
                    let same = songs.iter().find(|known| Some(&known.song) == read.song.as_ref());
                    read.same = same.is_some();
                    read.known_as = same.or(songs.first()).map(|known| known.id);
                }
                read.again_from_line = lines.insert(key, line);
            }
            read
        })
        .collect())
}

/// A row before its genre is known to be one.
struct Row {
    line: usize,
    title: String,
    song: Result<Song, NoSong>,
}

fn judge(mut song: Song, presets: &[KeptPreset], read: &mut ReadSong) {
    song.title = song.title.trim().to_string();
    let named = song.music.genre.trim().to_lowercase();
    let preset = presets.iter().find(|kept| kept.preset.code == named || kept.preset.name.to_lowercase() == named);
    match preset {
        Some(kept) => song.music.genre = kept.preset.code.clone(),
        None if named.is_empty() => {
            song.music.genre = NO_GENRE.into();
            read.note = Some(words!("No genre given: taken as general."));
        }
        None => {
            read.problem = Some(NoSong::UnknownGenre(song.music.genre.trim().to_string()).words());
            song.music.genre = NO_GENRE.into();
        }
    }
    match song.validate() {
        Ok(()) => read.song = Some(song),
        Err(problem) => read.problem = Some(NoSong::from(problem).words()),
    }
}

fn from_json(text: &str) -> Result<Vec<Row>, NoSongList> {
    let value: serde_json::Value = serde_json::from_str(text)?;
    let list = match value {
        serde_json::Value::Array(list) => list,
        serde_json::Value::Object(mut object) => match object.remove("songs") {
            Some(serde_json::Value::Array(list)) => list,
            _ => return Err(NoSongList::NoListInside),
        },
        _ => return Err(NoSongList::NoList),
    };
    let row = |(i, mut value): (usize, serde_json::Value)| {
        let title = value.get("title").and_then(|title| title.as_str()).unwrap_or_default().to_string();
        if let Some(object) = value.as_object_mut() {
            object.entry("genre").or_insert_with(|| "".into());
        }
        let song = serde_json::from_value(value).map_err(NoSong::from);
        Row { line: i + 1, title, song }
    };
    Ok(list.into_iter().enumerate().map(row).collect())
}

fn from_csv(text: &str) -> Result<Vec<Row>, NoSongList> {
    let first = text.lines().next().unwrap_or_default();
    // Spreadsheets of many countries part columns by semicolons.
    let delimiter = [b',', b';', b'\t'].into_iter().max_by_key(|d| first.bytes().filter(|b| b == d).count()).unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new().delimiter(delimiter).flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let headers = reader.headers()?.clone();
    let columns: HashMap<String, usize> = headers
        .iter()
        .enumerate()
        .map(|(i, name)| {
            let name = name.to_lowercase().replace([' ', '-'], "_");
            (if name == "tempo" { "bpm".into() } else { name }, i)
        })
        .collect();
    if !columns.contains_key("title") {
        return Err(NoSongList::NoTitles);
    }
    let mut rows = Vec::new();
    for record in reader.records() {
        match record {
            Ok(record) => {
                let line = record.position().map_or(0, |position| position.line() as usize);
                let cell = |name: &str| columns.get(name).and_then(|i| record.get(*i)).unwrap_or_default();
                rows.push(Row { line, title: cell("title").to_string(), song: song(&cell) });
            }
            Err(error) => {
                let line = error.position().map_or(0, |position| position.line() as usize);
                rows.push(Row { line, title: String::new(), song: Err(error.into()) });
            }
        }
    }
    Ok(rows)
}

fn song<'a>(cell: &impl Fn(&str) -> &'a str) -> Result<Song, NoSong> {
    let bpm = cell("bpm").replace(',', ".");
    let bpm: f64 = match bpm.as_str() {
        "" => return Err(NoSong::NoTempo),
        text => text.parse().map_err(|_| NoSong::UnknownWord { text: text.to_string(), what: text!("tempo") })?,
    };
    let gap = |name: &str| word::<NoteValue>(cell(name), text!("note value"));
    Ok(Song {
        title: plain_name(cell("title")),
        music: Music {
            genre: cell("genre").to_string(),
            bpm,
            meter: match cell("meter") {
                "" => Meter::default(),
                text => Meter::try_from(text.to_string())?,
            },
            feel: word::<Feel>(cell("feel"), text!("feel"))?.unwrap_or_default(),
            gaps: Gaps { snare: gap("snare_gap")?, tom: gap("tom_gap")?, floor_tom: gap("floor_tom_gap")?, kick: gap("kick_gap")? },
            dynamics: Dynamics {
                softest: word(cell("softest"), text!("dynamic"))?.unwrap_or(Dynamic::Medium),
                hardest: word(cell("hardest"), text!("dynamic"))?.unwrap_or(Dynamic::Medium),
            },
            school: word::<School>(cell("school"), text!("school"))?,
        },
        notes: cell("notes").to_string(),
    })
}

/// A word as JSON has it; spaces and capitals do not matter.
fn word<T: DeserializeOwned>(text: &str, what: Text) -> Result<Option<T>, NoSong> {
    if text.is_empty() {
        return Ok(None);
    }
    let code = text.to_lowercase().replace([' ', '-'], "_");
    let unknown = |_| NoSong::UnknownWord { text: text.to_string(), what };
    serde_json::from_value(serde_json::Value::String(code)).map(Some).map_err(unknown)
}

/// All of `songs` as CSV, which [`read_songs`] reads back without loss.
pub fn songs_as_csv(songs: &[Song]) -> Result<String, UnwritableList> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(COLUMNS)?;
    for Song { title, music, notes } in songs {
        let code = |value: serde_json::Result<serde_json::Value>| -> String {
            value.ok().and_then(|value| value.as_str().map(str::to_string)).unwrap_or_default()
        };
        let gap = |gap: Option<NoteValue>| gap.map(NoteValue::code).unwrap_or_default().to_string();
        writer.write_record([
            title.clone(),
            music.genre.clone(),
            music.bpm.to_string(),
            music.meter.to_string(),
            code(serde_json::to_value(music.feel)),
            gap(music.gaps.snare),
            gap(music.gaps.tom),
            gap(music.gaps.floor_tom),
            gap(music.gaps.kick),
            music.dynamics.softest.word().english().into(),
            music.dynamics.hardest.word().english().into(),
            music.school.map(School::word).unwrap_or_default().english().into(),
            notes.clone(),
        ])?;
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(error.into_error()))?;
    Ok(String::from_utf8(bytes)?)
}

/// All of `songs` as JSON.
pub fn songs_as_json(songs: &[Song]) -> Result<String, UnwritableList> {
    Ok(serde_json::to_string_pretty(songs)? + "\n")
}

#[cfg(test)]
mod tests {
    use super::*;
    use ember_store::Store;

    fn read(text: &str, known: &[KeptSong]) -> Vec<ReadSong> {
        read_songs(text, &Store::in_memory().unwrap().presets().unwrap(), known).unwrap()
    }

    #[test]
    fn every_row_is_answered_and_nothing_is_dropped() {
        let text = "Title;Genre;Tempo;Meter;Feel;Snare gap\n\
                    Foam;Surf;152,5;4/4;straight;sixteenth\n\
                    Spray;polka of the moon;120;;;\n\
                    Gull;;96;3/4;Swung;\n\
                    Nothing;surf;0;;;\n\
                    Fast;surf;1000;;;\n\
                    ;surf;120;;;\n\
                    foam;surf;140;;;\n\
                    Odd;surf;fast;;;\n\
                    🌊 شاطئ;surf;150;7/9;;\n";
        let rows = read(text, &[]);
        assert_eq!(rows.len(), 9);
        let foam = rows[0].song.as_ref().unwrap();
        assert_eq!((foam.music.bpm, foam.music.gaps.snare, foam.music.genre.as_str()), (152.5, Some(NoteValue::Sixteenth), "surf"));
        assert!(rows[1].song.is_some() && rows[1].problem.as_ref().unwrap().contains("polka of the moon"));
        assert!(rows[2].note.as_ref().unwrap().contains("general") && rows[2].problem.is_none());
        for bad in [3, 4, 5, 7, 8] {
            assert!(rows[bad].song.is_none() && rows[bad].problem.is_some(), "{}", rows[bad].line);
        }
        assert_eq!((rows[6].again_from_line, rows[6].line), (Some(2), 8));
        assert_eq!(rows[8].title, "🌊 شاطئ");
    }

    #[test]
    fn what_is_written_is_read_back() {
        let mut song =
            Song { title: "Quote \", comma; and\nnot".replace('\n', " "), music: Music::new("surf", 151.25), notes: "a\nb".into() };
        song.music.gaps.kick = Some(NoteValue::EighthTriplet);
        song.music.dynamics = Dynamics { softest: Dynamic::Soft, hardest: Dynamic::Hard };
        song.music.school = Some(School::Dead);
        song.music.feel = Feel::Swung;
        let songs = [song, Song { title: "🌊 شاطئ".into(), music: Music::new("cumbia", 96.0), notes: String::new() }];
        for text in [songs_as_csv(&songs).unwrap(), songs_as_json(&songs).unwrap()] {
            let back: Vec<Song> = read(&text, &[]).into_iter().map(|row| row.song.unwrap()).collect();
            assert_eq!(back, songs);
        }
        let known = [KeptSong { id: 7, song: songs[1].clone() }];
        let rows = read(&songs_as_json(&songs).unwrap(), &known);
        assert_eq!((rows[1].known_as, rows[1].same, rows[0].known_as), (Some(7), true, None));
    }

    #[test]
    fn lists_are_read_as_spreadsheets_write_them() {
        let line = "title;bpm\nÄgirs Fähre;96\n";
        let latin: Vec<u8> = line.chars().map(|letter| letter as u8).collect();
        let marked: Vec<u8> = [&[0xef, 0xbb, 0xbf], line.as_bytes()].concat();
        let wide: Vec<u8> = [0xff, 0xfe].into_iter().chain(line.encode_utf16().flat_map(u16::to_le_bytes)).collect();
        for bytes in [line.as_bytes().to_vec(), latin, marked, wide] {
            let rows = read(&as_text(&bytes), &[]);
            assert_eq!((rows.len(), rows[0].title.as_str(), rows[0].problem.as_ref()), (1, "Ägirs Fähre", None));
        }
    }

    #[test]
    fn words_are_taken_as_people_write_them() {
        let rows =
            read("Title,Tempo,Snare Gap,Kick-Gap,Hardest,School,Feel\nFoam,120,Dotted Eighth,sixteenth-triplet,HARD,Open,swung\n", &[]);
        let music = &rows[0].song.as_ref().unwrap().music;
        assert_eq!((music.gaps.snare, music.gaps.kick), (Some(NoteValue::DottedEighth), Some(NoteValue::SixteenthTriplet)));
        assert_eq!((music.dynamics.hardest, music.school, music.feel), (Dynamic::Hard, Some(School::Open), Feel::Swung));
        let odd = read("title,bpm,snare_gap\nFoam,120,a while\nSpray,120\n", &[]);
        assert!(odd[0].problem.as_ref().unwrap().contains("\"a while\" is no note value."));
        assert!(odd[1].song.is_some(), "a short row has the rest as usual");
    }

    #[test]
    fn files_that_are_no_list_are_refused_in_words() {
        let presets = Store::in_memory().unwrap().presets().unwrap();
        for (text, part) in [("", "empty"), ("a,b\n1,2", "title"), ("{\"x\": 1}", "songs"), ("[1, 2", "JSON"), ("title,bpm\n", "no songs")]
        {
            let said = read_songs(text, &presets, &[]).unwrap_err().to_string();
            assert!(said.contains(part), "{said}");
        }
    }
}
