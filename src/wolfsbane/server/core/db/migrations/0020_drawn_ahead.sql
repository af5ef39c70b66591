-- Calls of a draft are drawn before it is issued. ``drawn_from`` says what a call was drawn from, so that one of another
-- item, seed or release is told apart; ``drawn_ahead`` of a sheet what all of it was drawn from, once it is complete.
alter table drawn_calls add column drawn_from text not null default '', add column drawn_at timestamptz not null default now();
alter table sheets add column drawn_ahead text;
