-- The language a student reads in; what a catalog does not have stays English.
alter table users add column language text not null default 'en' check (language in ('en', 'es'));
