//! The devices the user owns.

use crate::damaged::{optional_text, text};
use crate::{Refused, Store, StoreError};
use ember_core::damping::{DeviceKind, Made};
use ember_core::plan::ShelfItem;

/// Most of one device.
pub(crate) const MOST: u32 = 99;

impl Store {
    /// Every known device with how many of it are owned, none included (of what is done to the rods: 1 where it may be), in the catalogue's
    /// order; of the places for things of the player's own those that are taken.
    pub fn shelf(&self) -> Result<Vec<ShelfItem>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT device, count, made FROM shelf_item")?;
        let rows = statement.query_map([], |row| Ok((text(row, 0)?, row.get(1)?, optional_text(row, 2)?)))?;
        let rows = rows.collect::<Result<Vec<(String, u32, Option<String>)>, _>>()?;
        let mut items = Vec::new();
        for device in DeviceKind::ALL {
            let row = rows.iter().find(|(code, ..)| code == device.code());
            // What cannot be read of a thing of the user's own is as if it were not there.
            let made: Option<Made> = row.and_then(|(_, _, made)| made.as_deref()).and_then(|made| serde_json::from_str(made).ok());
            if made.is_some() || !device.is_own() {
                // Everybody has a key: all rods may be turned unless the player said otherwise.
                let usual = u32::from(device == DeviceKind::RodsTurned);
                items.push(ShelfItem { device, count: row.map_or(usual, |(_, count, _)| *count), made });
            }
        }
        Ok(items)
    }

    /// Says how many of a device are owned (0 to 99), and what a thing of the player's own is.
    pub fn set_shelf_item(&mut self, item: ShelfItem) -> Result<(), StoreError> {
        if item.count > MOST {
            return Err(Refused::TooManyOfOne.into());
        }
        if let Some(made) = item.made {
            made.validate().map_err(Refused::from)?;
        }
        self.connection.execute(
            "INSERT INTO shelf_item (device, count, made) VALUES (?1, ?2, ?3)
             ON CONFLICT (device) DO UPDATE SET count = excluded.count, made = coalesce(excluded.made, made)",
            (item.device.code(), item.count, item.made.map(|made| serde_json::to_string(&made)).transpose()?),
        )?;
        Ok(())
    }

    /// Sees to it that at least so many of each of `things` are owned: all of them, or nothing changes.
    pub fn stock(&mut self, things: &[(DeviceKind, u32)]) -> Result<(), StoreError> {
        let transaction = self.connection.transaction()?;
        for (device, count) in things {
            transaction.execute(
                "INSERT INTO shelf_item (device, count) VALUES (?1, min(?2, ?3))
                 ON CONFLICT (device) DO UPDATE SET count = max(count, excluded.count)",
                (device.code(), count, MOST),
            )?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Puts a thing of the player's own on the shelf, in the first place that is free.
    pub fn add_own(&mut self, made: Made, count: u32) -> Result<ShelfItem, StoreError> {
        let taken = self.shelf()?;
        let free = DeviceKind::OWN.into_iter().find(|device| taken.iter().all(|item| item.device != *device));
        let Some(device) = free else {
            return Err(Refused::TooManyOwn.into());
        };
        let item = ShelfItem { device, count, made: Some(made) };
        self.set_shelf_item(item)?;
        Ok(item)
    }

    /// Takes a thing of the player's own off the shelf; treatments that had it keep what it was.
    pub fn remove_own(&mut self, device: DeviceKind) -> Result<(), StoreError> {
        if device.is_own() {
            self.connection.execute("DELETE FROM shelf_item WHERE device = ?1", [device.code()])?;
        }
        Ok(())
    }
}
