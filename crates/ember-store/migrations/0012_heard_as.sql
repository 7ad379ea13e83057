-- In which of its own states a drum was heard: a hi-hat closed, a kick with a pillow that stays in it. Codes joined by +; NULL: as usual.
ALTER TABLE take ADD COLUMN heard_as TEXT;
