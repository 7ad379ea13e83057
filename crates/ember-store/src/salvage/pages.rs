//! Reads rows out of a database file without SQLite, page by page, so that one damaged page costs no other. After the description of the
//! file format at sqlite.org (fileformat2.html).

use rusqlite::types::Value;
use std::collections::HashSet;
use std::fs::File;
use std::io::{Read, Seek, SeekFrom};

const HEADER_BYTES: usize = 100;
const INTERIOR_INDEX: u8 = 0x02;
const INTERIOR_TABLE: u8 = 0x05;
const LEAF_TABLE: u8 = 0x0D;
/// No tree of ours is deeper; a damaged one may go in circles.
const DEEPEST: usize = 20;

/// A row as it was found.
#[derive(Debug, Clone, PartialEq)]
pub struct FoundRow {
    /// 0 in tables without row numbers.
    pub id: i64,
    /// Values in the order of the columns; columns that were added later may be missing at the end.
    pub values: Vec<Value>,
    /// The end of it could not be read.
    pub broken_off: bool,
}

/// A database file, read by its pages.
pub struct Pages {
    file: File,
    size: usize,
    pub count: u32,
}

impl Pages {
    pub fn new(mut file: File) -> std::io::Result<Self> {
        let mut head = [0; HEADER_BYTES];
        let length = file.metadata()?.len();
        file.read_exact(&mut head)?;
        let size = match u16::from_be_bytes([head[16], head[17]]) {
            1 => 65_536,
            size if size >= 512 && size.is_power_of_two() && length % u64::from(size) == 0 => usize::from(size),
            // Of a damaged header the usual size is taken, which is what this program makes.
            _ => 4_096,
        };
        Ok(Self { file, size, count: (length / size as u64).min(u64::from(u32::MAX)) as u32 })
    }

    /// A page by its number, from 1.
    fn page(&mut self, number: u32) -> Option<Vec<u8>> {
        if number == 0 || number > self.count {
            return None;
        }
        let mut page = vec![0; self.size];
        self.file.seek(SeekFrom::Start(u64::from(number - 1) * self.size as u64)).ok()?;
        self.file.read_exact(&mut page).ok()?;
        Some(page)
    }

    /// Pages that hold nothing any more, whatever still stands on them.
    pub fn free(&mut self) -> HashSet<u32> {
        let mut free = HashSet::new();
        let mut trunk = self.page(1).map_or(0, |first| u32_at(&first, 32));
        while let Some(page) = self.page(trunk).filter(|_| free.insert(trunk)) {
            let leaves = (u32_at(&page, 4) as usize).min(self.size / 4 - 2);
            free.extend((0..leaves).map(|leaf| u32_at(&page, 8 + 4 * leaf)));
            trunk = u32_at(&page, 0);
        }
        free
    }

    /// All rows of the tree whose root is page `root`, as far as they can be reached; pages that were looked at are put into `seen`. With
    /// `keys` it is a table without row numbers, which is kept as an index.
    pub fn rows(&mut self, root: u32, keys: bool, seen: &mut HashSet<u32>) -> Vec<FoundRow> {
        let mut rows = Vec::new();
        let mut left = vec![(root, 0)];
        while let Some((number, depth)) = left.pop() {
            if depth > DEEPEST || !seen.insert(number) {
                continue;
            }
            let Some(page) = self.page(number) else { continue };
            let at = start_of(number);
            // An upper page leads to pages that there are; a last page whose kind has gone bad does not.
            let leads_on = || {
                cells(&page, at, 12).map(|cell| u32_at(&page, cell)).chain([u32_at(&page, at + 8)]).all(|to| (2..=self.count).contains(&to))
            };
            match page[at] {
                INTERIOR_TABLE | INTERIOR_INDEX if leads_on() => {
                    for cell in cells(&page, at, 12) {
                        left.push((u32_at(&page, cell), depth + 1));
                        // In a tree of keys the rows stand on the upper pages too.
                        rows.extend((page[at] == INTERIOR_INDEX).then(|| self.row(&page, cell + 4, true)).flatten());
                    }
                    left.push((u32_at(&page, at + 8), depth + 1));
                }
                // Where the kind of page is damaged, it is what most pages are.
                _ => rows.extend(cells(&page, at, 8).filter_map(|cell| self.row(&page, cell, keys))),
            }
        }
        rows
    }

    /// Rows on page `number` if it is one of a table's last.
    pub fn rows_of_leaf(&mut self, number: u32) -> Vec<FoundRow> {
        match self.page(number) {
            Some(page) if page[start_of(number)] == LEAF_TABLE => {
                cells(&page, start_of(number), 8).filter_map(|cell| self.row(&page, cell, false)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// The row whose cell begins at `at`; of `keys`: in a table without row numbers.
    fn row(&mut self, page: &[u8], at: usize, keys: bool) -> Option<FoundRow> {
        let (length, at) = varint(page, at)?;
        let (id, at) = if keys { (0, at) } else { varint(page, at)? };
        let length = usize::try_from(length).ok().filter(|length| *length as u64 <= u64::from(self.count) * self.size as u64)?;
        let (payload, broken_off) = self.payload(page, at, length, keys)?;
        let values = record(&payload, length)?;
        Some(FoundRow { id, values, broken_off })
    }

    /// `length` bytes from `at` on, of which what has no room on the page goes on elsewhere; and whether some could not be found.
    fn payload(&mut self, page: &[u8], at: usize, length: usize, keys: bool) -> Option<(Vec<u8>, bool)> {
        let usable = self.size;
        let most = if keys { (usable - 12) * 64 / 255 - 23 } else { usable - 35 };
        let least = (usable - 12) * 32 / 255 - 23;
        let here = match length {
            length if length <= most => length,
            length => Some(least + (length - least) % (usable - 4)).filter(|here| *here <= most).unwrap_or(least),
        };
        let mut payload = page.get(at..at + here)?.to_vec();
        if here == length {
            return Some((payload, false));
        }
        let mut next = u32_at(page, at + here);
        let mut seen = HashSet::new();
        while payload.len() < length {
            let Some(page) = self.page(next).filter(|_| seen.insert(next)) else { return Some((payload, true)) };
            payload.extend_from_slice(&page[4..usable.min(4 + length - payload.len())]);
            next = u32_at(&page, 0);
        }
        Some((payload, false))
    }
}

/// Where a page's own header begins.
fn start_of(number: u32) -> usize {
    if number == 1 { HEADER_BYTES } else { 0 }
}

fn u32_at(bytes: &[u8], at: usize) -> u32 {
    bytes.get(at..at + 4).map_or(0, |four| u32::from_be_bytes([four[0], four[1], four[2], four[3]]))
}

fn u16_at(bytes: &[u8], at: usize) -> usize {
    bytes.get(at..at + 2).map_or(0, |two| usize::from(u16::from_be_bytes([two[0], two[1]])))
}

/// Where the cells of a page begin whose own header is at `at` and `header` bytes long.
fn cells(page: &[u8], at: usize, header: usize) -> impl Iterator<Item = usize> + '_ {
    let room = (page.len() - at - header) / 2;
    let place = move |index: usize| u16_at(page, at + header + 2 * index);
    let is_place = move |cell: usize| cell >= at + header && cell < page.len();
    let first = |count: usize| (0..count).map(place).filter(|cell| is_place(*cell)).min().unwrap_or(page.len());
    let mut count = u16_at(page, at + 3).min(room);
    // Where the cells begin is told twice. If that does not fit, the count has gone bad, and places are read up to the first cell.
    if first(count) != u16_at(page, at + 5) {
        count = (1..=room).find(|count| at + header + 2 * count >= first(*count)).unwrap_or(room);
    }
    (0..count).map(place).filter(move |cell| is_place(*cell))
}

/// A number of variable length at `at`, and what follows it.
fn varint(bytes: &[u8], at: usize) -> Option<(i64, usize)> {
    let mut value = 0u64;
    for index in 0..9 {
        let byte = *bytes.get(at + index)?;
        if index == 8 {
            return Some((((value << 8) | u64::from(byte)) as i64, at + 9));
        }
        value = (value << 7) | u64::from(byte & 0x7F);
        if byte & 0x80 == 0 {
            return Some((value as i64, at + index + 1));
        }
    }
    None
}

/// The values of a record of `length` bytes, of which `payload` may be the beginning only: what is missing is empty.
fn record(payload: &[u8], length: usize) -> Option<Vec<Value>> {
    let (header, mut at) = varint(payload, 0)?;
    let header = usize::try_from(header).ok().filter(|header| *header <= payload.len())?;
    let (mut body, mut values) = (header, Vec::new());
    while at < header {
        let (kind, next) = varint(payload, at)?;
        at = next;
        let kind = usize::try_from(kind).ok()?;
        let size = match kind {
            0 | 8 | 9 => 0,
            1..=4 => kind,
            5 => 6,
            6 | 7 => 8,
            10 | 11 => return None,
            kind => (kind - 12) / 2,
        };
        if size > length {
            return None;
        }
        let bytes = payload.get(body..body + size);
        body += size;
        values.push(match (kind, bytes) {
            (0, _) => Value::Null,
            (8, _) => Value::Integer(0),
            (9, _) => Value::Integer(1),
            (1..=6, Some(bytes)) => {
                let negative = bytes.first().is_some_and(|first| first & 0x80 != 0);
                Value::Integer(bytes.iter().fold(if negative { -1 } else { 0 }, |value: i64, byte| (value << 8) | i64::from(*byte)))
            }
            (7, Some(bytes)) => Value::Real(f64::from_be_bytes(bytes.try_into().ok()?)),
            (1..=7, None) => Value::Integer(0),
            (kind, bytes) if kind % 2 == 0 => Value::Blob(bytes.unwrap_or_default().to_vec()),
            (_, bytes) => Value::Text(String::from_utf8(bytes.unwrap_or_default().to_vec()).ok()?),
        });
    }
    Some(values)
}
