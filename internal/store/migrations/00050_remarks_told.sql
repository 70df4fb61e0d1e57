-- +goose Up

-- Remarks reach whoever looks at their post at once.
-- +goose StatementBegin
create function notify_remarks() returns trigger language plpgsql as $$
begin
    perform pg_notify('plan', json_build_object('site', site_id, 'of', 'remarks')::text) from (select distinct site_id from told) s;
    return null;
end $$;
-- +goose StatementEnd
create trigger remarks_said after insert on remarks referencing new table as told for each statement execute function notify_remarks();
create trigger remarks_changed after update on remarks referencing new table as told for each statement execute function notify_remarks();
create trigger remarks_gone after delete on remarks referencing old table as told for each statement execute function notify_remarks();

-- +goose Down
drop trigger remarks_said on remarks;
drop trigger remarks_changed on remarks;
drop trigger remarks_gone on remarks;
drop function notify_remarks;
