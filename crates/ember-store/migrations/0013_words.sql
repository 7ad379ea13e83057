-- Sentences inside plans, checks and lessons are kept as a text and its values since this version, so that they can be read in another language.
-- What is kept from before stays as it is and is still read. The version alone moves, so that an older program, which could not read the new
-- shape, says that the data is newer than it is.
UPDATE treatment SET plan = plan WHERE FALSE;
