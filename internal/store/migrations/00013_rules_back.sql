-- +goose Up

-- A deleted rule stays for as long as its line of the logbook, so that the deletion can
-- be undone: its exclusions, turns and outings are all still its own then.
alter table rules add column deleted_at timestamptz;

-- A post that was held by hand can be let go before its time.
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'release', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit'));

-- +goose Down
delete from rules where deleted_at is not null;
alter table rules drop column deleted_at;
update logbook set deed = 'hold' where deed = 'release';
alter table logbook
    drop constraint logbook_deed_check,
    add constraint logbook_deed_check check (deed in (
        'publish', 'commit', 'retime', 'shelve', 'clear', 'unclear', 'reorder', 'rhythm',
        'bounds', 'settings', 'pause', 'resume', 'hold', 'move', 'undo', 'close-up',
        'archive', 'to draft', 'bin', 'republish', 'share', 'ask', 'rule', 'arm', 'disarm', 'exclude', 'upkeep', 'channel', 'delivery',
        'people', 'restore', 'delete', 'hand in', 'give back', 'address', 'edit'));
