-- +goose Up

-- Whether the program has been set up. Whoever has the code, of which only the hash is kept, sets
-- it up; as soon as there is anybody with an account it is set up for good.
create table setup (
    single    boolean primary key default true check (single),
    code_hash bytea check (octet_length(code_hash) = 32),
    closed_at timestamptz
);
insert into setup (closed_at) select case when exists (select from users) then now() end;

-- +goose StatementBegin
create function close_setup() returns trigger language plpgsql as $$
begin
    update setup set closed_at = now(), code_hash = null where closed_at is null;
    return null;
end $$;
-- +goose StatementEnd
create trigger users_close_setup after insert on users for each statement execute function close_setup();

alter table sites
    add column language text not null default 'en-GB' check (language <> ''),
    add column archived_at timestamptz,
    add constraint archived_sites_are_paused check (archived_at is null or paused_at is not null);

-- +goose Down
alter table sites drop column archived_at, drop column language;
drop trigger users_close_setup on users;
drop function close_setup();
drop table setup;
