-- Recordings of 64-bit float; keys that name a channel which was removed; one token opens one cue of one session.

alter table media drop constraint media_encoding_check;
alter table media add constraint media_encoding_check check (encoding in ('s16', 's24', 's32', 'f32', 'f64'));

alter table "insert" drop constraint insert_key_fkey;

delete from cue_token a using cue_token b where a.id = b.id and a.session_id > b.session_id;
drop index cue_token_id;
create unique index cue_token_id on cue_token (id);
