-- +goose Up

-- Addresses of other programs that are told what happens on a blog.
create table webhooks (
    id            bigint generated always as identity primary key,
    site_id       bigint not null references sites on delete cascade,
    name          text not null check (name <> ''),
    address       text not null check (address <> ''),
    events        jsonb not null check (jsonb_typeof(events) = 'array'),
    secret        text not null, -- sealed
    old_secret    text not null default '', -- sealed; signs too until old_ends
    old_ends      timestamptz,
    off_at        timestamptz, -- null: it is on
    off_why       text not null default '',
    failing_since timestamptz, -- of the first try that failed since one arrived
    version       integer not null default 1,
    created_at    timestamptz not null,
    unique (site_id, id)
);

-- What webhooks are told. The text is made at the first try and stays as it is then.
create table hook_deliveries (
    id      bigint generated always as identity primary key,
    site_id bigint not null,
    hook_id bigint not null,
    key     text not null default 'evt_' || replace(gen_random_uuid()::text, '-', ''),
    event   text not null,
    post    bigint, -- what it is about, if it is still there
    outing  bigint,
    rule    bigint,
    line    bigint, -- of the logbook
    act     bigint,
    at      timestamptz not null,
    sample  boolean not null default false,
    body    text not null default '',
    state   text not null default 'waiting' check (state in ('waiting', 'delivered', 'failed')),
    tries   integer not null default 0,
    next_at timestamptz not null,
    status  integer not null default 0, -- of the latest answer; 0: there was none
    error   text not null default '',
    tried_at timestamptz,
    foreign key (site_id, hook_id) references webhooks (site_id, id) on delete cascade
);
create index hook_deliveries_due on hook_deliveries (next_at) where state = 'waiting';
create index hook_deliveries_of_hook on hook_deliveries (hook_id, id desc);
-- Typing, and an act of many lines, is told once.
create unique index hook_changes_once on hook_deliveries (hook_id, post) where state = 'waiting' and tries = 0 and not sample and event = 'post.changed';
create unique index hook_plans_once on hook_deliveries (hook_id, act) where state = 'waiting' and tries = 0 and not sample and event = 'plan.changed';

-- Which event a line of the logbook is; null: none.
-- +goose StatementBegin
create function hook_event(deed text, of_engine boolean) returns text immutable language sql as $$
    select case
        when deed = 'publish' then 'post.published'
        when deed = 'republish' then 'post.republished'
        when deed in ('archive', 'to draft', 'bin') and of_engine then 'post.expired'
        when deed in ('archive', 'to draft', 'bin', 'delete') then 'post.removed'
        when deed = 'ask' then 'rule.held'
        when deed in ('commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm', 'bounds', 'pause', 'resume', 'hold', 'release', 'move', 'close-up') then 'plan.changed'
    end
$$;

create function tell_hooks_of_logbook() returns trigger language plpgsql as $$
begin
    if not exists (select from public.webhooks where off_at is null) then
        return null;
    end if;
    insert into public.hook_deliveries (site_id, hook_id, event, post, rule, line, act, at, next_at)
    select come.site_id, webhooks.id, public.hook_event(deed, actor_id is null), post_id, rule_id, come.id, act_id, come.at, come.at
    from come join public.webhooks on webhooks.site_id = come.site_id and off_at is null and events ? public.hook_event(deed, actor_id is null)
    on conflict do nothing;
    return null;
end $$;

create function tell_hooks_of_outings() returns trigger language plpgsql as $$
begin
    if not exists (select from public.webhooks where off_at is null) then
        return null;
    end if;
    if TG_OP = 'INSERT' then
        insert into public.hook_deliveries (site_id, hook_id, event, post, outing, rule, at, next_at)
        select come.site_id, webhooks.id, 'outing.due', post_id, come.id, rule_id, at, at
        from come join public.webhooks on webhooks.site_id = come.site_id and off_at is null and events ? 'outing.due' where state = 'waiting';
    else
        insert into public.hook_deliveries (site_id, hook_id, event, post, outing, rule, at, next_at)
        select come.site_id, webhooks.id, 'outing.' || word, come.post_id, come.id, come.rule_id, coalesce(come.sent_at, come.at), coalesce(come.sent_at, come.at)
        from come join gone on gone.id = come.id cross join lateral (select case come.state when 'waiting' then 'due' else come.state end as word) w
            join public.webhooks on webhooks.site_id = come.site_id and off_at is null and events ? ('outing.' || word)
        where come.state <> gone.state and come.state in ('waiting', 'sent', 'failed');
    end if;
    return null;
end $$;

create function tell_hooks_of_texts() returns trigger language plpgsql as $$
begin
    if not exists (select from public.webhooks where off_at is null) then
        return null;
    end if;
    insert into public.hook_deliveries (site_id, hook_id, event, post, at, next_at)
    select come.site_id, webhooks.id, 'post.changed', come.id, come.updated_at, come.updated_at + interval '1 minute'
    from come join gone on gone.id = come.id join public.webhooks on webhooks.site_id = come.site_id and off_at is null and events ? 'post.changed'
    where come.status = 'published' and gone.status = 'published' and come.text_id is distinct from gone.text_id
    on conflict do nothing;
    return null;
end $$;
-- +goose StatementEnd

create trigger hooks_of_logbook after insert on logbook
    referencing new table as come for each statement execute function tell_hooks_of_logbook();
create trigger hooks_of_new_outings after insert on outings
    referencing new table as come for each statement execute function tell_hooks_of_outings();
create trigger hooks_of_outings after update on outings
    referencing new table as come old table as gone for each statement execute function tell_hooks_of_outings();
create trigger hooks_of_texts after update on posts
    referencing new table as come old table as gone for each statement execute function tell_hooks_of_texts();
create trigger webhooks_inserted after insert on webhooks
    referencing new table as come for each statement execute function notify_plan();
create trigger webhooks_updated after update on webhooks
    referencing new table as come for each statement execute function notify_plan();
create trigger webhooks_deleted after delete on webhooks
    referencing old table as gone for each statement execute function notify_plan();

-- An outing that was handed to somebody outside, who says when it is done.
alter table outings add column handed_at timestamptz;

-- +goose Down
alter table outings drop column handed_at;
drop trigger hooks_of_texts on posts;
drop trigger hooks_of_outings on outings;
drop trigger hooks_of_new_outings on outings;
drop trigger hooks_of_logbook on logbook;
drop function tell_hooks_of_texts, tell_hooks_of_outings, tell_hooks_of_logbook, hook_event;
drop table hook_deliveries, webhooks;
