-- An apprentice who is to be erased stays until this time, so that it can be taken back.
alter table apprentices add column erase_at timestamptz;
