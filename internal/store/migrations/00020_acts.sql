-- +goose Up

-- An act is one thing that a person or a rule did; the lines of the logbook say what it
-- changed. It is undone as one. Lines may be added to it by later transactions, as an import
-- that is committed in portions does.
create table acts (
    id        bigint generated always as identity primary key,
    site_id   bigint not null references sites on delete cascade,
    at        timestamptz not null,
    actor_id  bigint references users, -- null: the engine
    rule_id   bigint, -- the rule whose act it is, or that was changed
    why       text not null, -- a sentence
    undoes    bigint,
    undone_at timestamptz,
    unique (site_id, id),
    foreign key (site_id, rule_id) references rules (site_id, id) on delete set null (rule_id),
    foreign key (site_id, undoes) references acts (site_id, id) on delete set null (undoes)
);
create index acts_undoing on acts (undoes) where undoes is not null;
create index acts_of_a_rule on acts (rule_id) where rule_id is not null;

-- Lines of a batch are an act; those that were undone while others of it were not, are acts of
-- their own. An act has the number of its first line.
alter table logbook add column act_id bigint;
with batches as (
    select batch, bool_and(undone_at is not null) as whole from logbook where batch is not null group by batch
), grouped as (
    select id, site_id, at, actor_id, rule_id, reason, undone_at,
        min(id) over (partition by case when logbook.batch is null or undone_at is not null and not whole then -id else logbook.batch end) as act
    from logbook left join batches using (batch)
), made as (
    insert into acts (id, site_id, at, actor_id, rule_id, why, undone_at) overriding system value
    select act, site_id, min(at), (array_agg(actor_id order by id))[1], (array_agg(rule_id order by id))[1], (array_agg(reason order by id))[1],
        case when bool_and(undone_at is not null) then max(undone_at) end
    from grouped group by act, site_id order by act
)
update logbook set act_id = act from grouped where grouped.id = logbook.id;
select setval(pg_get_serial_sequence('acts', 'id'), coalesce(max(id), 0) + 1, false) from acts;
update acts set undoes = undone.act_id from logbook line join logbook undone on undone.id = line.undoes where line.act_id = acts.id;

alter table rule_runs add column act_id bigint;
update rule_runs set act_id = logbook.act_id from logbook where logbook.batch = rule_runs.batch;
alter table rule_runs drop column batch, add foreign key (site_id, act_id) references acts (site_id, id) on delete set null (act_id);
create index rule_runs_of_an_act on rule_runs (act_id) where act_id is not null;

alter table logbook
    alter column act_id set not null,
    add foreign key (site_id, act_id) references acts (site_id, id) on delete cascade,
    drop column batch, drop column undone_at;
create index logbook_by_act on logbook (act_id);
drop sequence logbook_batch;

-- +goose Down
create sequence logbook_batch;
alter table logbook add column batch bigint, add column undone_at timestamptz;
update logbook set undone_at = acts.undone_at,
    batch = case when (select count(*) from logbook same where same.act_id = logbook.act_id) > 1 or exists (select from rule_runs where rule_runs.act_id = logbook.act_id) then logbook.act_id end
    from acts where acts.id = logbook.act_id;
create index logbook_by_batch on logbook (batch) where batch is not null;
select setval('logbook_batch', coalesce(max(batch), 0) + 1, false) from logbook;
alter table rule_runs add column batch bigint;
update rule_runs set batch = act_id;
alter table rule_runs drop column act_id;
alter table logbook drop column act_id;
drop table acts;
