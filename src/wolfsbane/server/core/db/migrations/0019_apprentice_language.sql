-- The language papers of an apprentice are printed in; who has a log-in reads in the same one.
alter table apprentices add column language text not null default 'en' check (language in ('en', 'es'));
update apprentices a set language = u.language from users u where u.id = a.user_id;
