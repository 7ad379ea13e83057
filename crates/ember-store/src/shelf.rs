//! The devices the user owns.

use crate::{Store, StoreError};
use ember_core::damping::DeviceKind;
use ember_core::plan::ShelfItem;

impl Store {
    /// Every known device with how many of it are owned, none included, in the catalogue's order.
    pub fn shelf(&self) -> Result<Vec<ShelfItem>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT device, count FROM shelf_item")?;
        let owned = statement.query_map([], |row| Ok((row.get::<_, String>(0)?, row.get::<_, u32>(1)?)))?.collect::<Result<Vec<_>, _>>()?;
        let count = |device: DeviceKind| owned.iter().find(|(code, _)| code == device.code()).map_or(0, |(_, count)| *count);
        Ok(DeviceKind::ALL.into_iter().map(|device| ShelfItem { device, count: count(device) }).collect())
    }

    /// Says how many of a device are owned (0 to 99).
    pub fn set_shelf_item(&mut self, item: ShelfItem) -> Result<(), StoreError> {
        if item.count > 99 {
            return Err(StoreError::Refused("A shelf holds at most 99 of one device.".into()));
        }
        self.connection.execute(
            "INSERT INTO shelf_item (device, count) VALUES (?1, ?2) ON CONFLICT (device) DO UPDATE SET count = excluded.count",
            (item.device.code(), item.count),
        )?;
        Ok(())
    }
}
