-- +goose Up

-- A version that is neither live nor the one before it is kept as what differs from the version that was made from it: "packed" says how to
-- get its text from that of "packed_on". Some stay whole, so that none is many steps away.
alter table texts
    alter column words drop expression,
    alter column words set default 0,
    add column packed jsonb check (jsonb_typeof(packed) = 'array'),
    add column packed_on bigint,
    add foreign key (site_id, post_id, packed_on) references texts (site_id, post_id, id),
    add check ((packed is null) = (packed_on is null)),
    add check (packed is null or body = '');
create index texts_packed_on on texts (packed_on) where packed_on is not null;

-- +goose StatementBegin
create function count_words() returns trigger language plpgsql as $$
begin
    new.words := public.words_of(new.body);
    return new;
end $$;
-- +goose StatementEnd
create trigger texts_count_words before insert on texts for each row execute function count_words();

drop trigger texts_stay on texts;
-- What a version says never changes; how it is kept does.
create trigger texts_stay before update on texts for each row
    when ((old.site_id, old.post_id, old.title, old.excerpt, old.tags, old.fields, old.at, old.words)
            is distinct from (new.site_id, new.post_id, new.title, new.excerpt, new.tags, new.fields, new.at, new.words)
        or old.body <> new.body and (old.packed is not null or new.packed is null))
    execute function refuse_change();

-- +goose Down
-- What is packed cannot be unpacked here: only whole versions are kept.
drop trigger texts_stay on texts;
drop trigger texts_count_words on texts;
drop function count_words;
set constraints all immediate;
update texts set made_from = null where made_from in (select id from texts where packed is not null);
delete from texts where packed is not null;
alter table texts drop column packed_on, drop column packed, drop column words;
alter table texts add column words integer not null generated always as (words_of(body)) stored;
create trigger texts_stay before update on texts for each row
    when ((old.site_id, old.post_id, old.title, old.body, old.excerpt, old.tags, old.fields, old.at)
        is distinct from (new.site_id, new.post_id, new.title, new.body, new.excerpt, new.tags, new.fields, new.at))
    execute function refuse_change();
