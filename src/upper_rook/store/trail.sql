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
-- Every act carries a digest of itself and of the act before: one that is changed or taken out breaks the chain.
alter table trail.act add column if not exists link bytea;
create or replace function trail.digest(before bytea, number bigint, at timestamptz, variadic words text[])
returns bytea language sql immutable set search_path = pg_catalog as $$
  select sha256(coalesce(before, ''::bytea)
    || convert_to(jsonb_build_array(number, extract(epoch from at)::text, words)::text, 'UTF8'))
$$;
create or replace function trail.chain() returns trigger
language plpgsql security definer set search_path = pg_catalog as $$
declare before bytea;
begin
  -- One after the other, or two would follow the same one.
  perform pg_advisory_xact_lock(7254005);
  new.number := coalesce((select max(number) from trail.act), 0) + 1;
  select link into before from trail.act where number = new.number - 1;
  new.link := trail.digest(before, new.number, new.at, new."by", new.device, new.act, new.what);
  return new;
end $$;
alter function trail.digest(bytea, bigint, timestamptz, text[]) owner to rook_trail;
alter function trail.chain() owner to rook_trail;
create or replace trigger chain before insert on trail.act for each row execute function trail.chain();
grant usage on schema trail to rook;
grant select on trail.act to rook;
-- Number and time are the server's own.
grant insert (by, device, act, what) on trail.act to rook;
