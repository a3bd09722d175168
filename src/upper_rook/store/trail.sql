-- The trail of acts: the app adds to it and reads it. Nothing that signs in can change or take out what stands there,
-- since table and schema belong to a role of their own that nobody signs in as. To be run by a superuser.
do $$ begin
  if not exists (select from pg_roles where rolname = 'rook_trail') then create role rook_trail nologin; end if;
  if not exists (select from pg_roles where rolname = 'rook') then create role rook login; end if;
end $$;
create schema if not exists trail authorization rook_trail;
create table if not exists trail.act (
  number bigint generated always as identity primary key,
  at timestamptz not null default clock_timestamp(),
  by text not null,
  device text not null,
  act text not null,
  what text not null
);
alter table trail.act owner to rook_trail;
grant usage on schema trail to rook;
grant select on trail.act to rook;
-- Number and time are the server's own.
grant insert (by, device, act, what) on trail.act to rook;
