//! AIFF files that break off, as a full card or a pulled plug leaves them: their headers promise more than there is, and the decoder refuses
//! them. They are given headers that say what is there.

use std::fs::File;
use std::io::{Read, Result, Seek, SeekFrom};
use symphonia::core::io::MediaSource;

/// Chunks looked at before the sound must have been found.
const MOST_CHUNKS: usize = 64;

/// A file in which a few bytes are read as others.
pub(super) struct Mended {
    file: File,
    length: u64,
    position: u64,
    /// Where other bytes are read, and which.
    patches: Vec<(u64, [u8; 4])>,
}

impl Mended {
    /// `file` with sizes that fit it, where it is an AIFF whose sizes do not; else as it is.
    pub(super) fn new(mut file: File) -> Result<Self> {
        let length = file.metadata()?.len();
        let patches = patches(&mut file, length).unwrap_or_default();
        file.seek(SeekFrom::Start(0))?;
        Ok(Self { file, length, position: 0, patches })
    }
}

/// What has to be read otherwise; an error where it is no AIFF.
fn patches(file: &mut File, length: u64) -> Result<Vec<(u64, [u8; 4])>> {
    let mut head = [0; 12];
    file.read_exact(&mut head)?;
    let size = |bytes: &[u8]| u64::from(u32::from_be_bytes([bytes[0], bytes[1], bytes[2], bytes[3]]));
    let is_aiff = head.starts_with(b"FORM") && (head.ends_with(b"AIFF") || head.ends_with(b"AIFC"));
    if !is_aiff || size(&head[4..8]) + 8 <= length {
        return Ok(Vec::new());
    }
    let as_bytes = |size: u64| u32::try_from(size).unwrap_or(u32::MAX).to_be_bytes();
    // Chunks begin at even places, so what is promised ends at one.
    let mut patches = vec![(4, as_bytes((length - 8) & !1))];
    let mut at = 12;
    for _ in 0..MOST_CHUNKS {
        let mut chunk = [0; 8];
        file.seek(SeekFrom::Start(at))?;
        file.read_exact(&mut chunk)?;
        let promised = size(&chunk[4..8]);
        if at + 8 + promised > length {
            patches.push((at + 4, as_bytes((length - at - 8) & !1)));
            break;
        }
        at += 8 + promised + promised % 2;
    }
    Ok(patches)
}

impl Read for Mended {
    fn read(&mut self, buffer: &mut [u8]) -> Result<usize> {
        let count = self.file.read(buffer)?;
        let here = self.position..self.position + count as u64;
        for (at, bytes) in &self.patches {
            for (place, byte) in (*at..).zip(bytes).filter(|(place, _)| here.contains(place)) {
                buffer[(place - here.start) as usize] = *byte;
            }
        }
        self.position = here.end;
        Ok(count)
    }
}

impl Seek for Mended {
    fn seek(&mut self, to: SeekFrom) -> Result<u64> {
        self.position = self.file.seek(to)?;
        Ok(self.position)
    }
}

impl MediaSource for Mended {
    fn is_seekable(&self) -> bool {
        true
    }

    fn byte_len(&self) -> Option<u64> {
        Some(self.length)
    }
}
