//! Limits: what does not fit is cut or skipped, down the finished list.

use super::{Entry, LeftOut, LeftOutWhat, LeftOutWhy};
use crate::profile::{Excess, Profile};

pub(super) fn apply(profile: &Profile, loaded: Vec<Entry>) -> (Vec<Entry>, Vec<LeftOut>) {
    let limits = profile.limits;
    let of_file = Some(limits.file_bytes).filter(|limit| *limit > 0);
    let mut room = Some(limits.total_bytes).filter(|limit| *limit > 0);
    let (mut kept, mut over) = (Vec::new(), Vec::new());
    for mut entry in loaded {
        let bytes = entry.document.bytes;
        let fits_file = of_file.is_none_or(|limit| bytes <= limit);
        let allowed = bytes.min(of_file.unwrap_or(bytes)).min(room.unwrap_or(bytes));
        let nothing_left = match limits.excess {
            Excess::Skip => allowed < bytes,
            Excess::Cut => allowed == 0 && bytes > 0,
        };
        if nothing_left {
            let by_file = limits.excess == Excess::Skip && !fits_file;
            let limit = if by_file { limits.file_bytes } else { limits.total_bytes };
            let why = LeftOutWhy::OverLimit { bytes, limit, of_file: by_file };
            over.push(LeftOut { what: LeftOutWhat::File(entry.path), place: entry.place, why });
            continue;
        }
        if let Some(room) = &mut room {
            *room -= allowed;
        }
        if allowed < bytes {
            let read = &entry.document.on_disk()[..allowed as usize];
            entry.cut_at_line = Some(read.iter().filter(|byte| **byte == b'\n').count() + 1);
            entry.tokens = entry.document.tokens_of_first(allowed);
            entry.kept = allowed;
        }
        kept.push(entry);
    }
    (kept, over)
}
