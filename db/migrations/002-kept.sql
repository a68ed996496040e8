-- Steps as two stacks, so that undo looks at one row however many there are; what may be collected; named states.

-- The newest step in effect, and the newest turn back that can be done again.
alter table document add column top integer, add column undone integer, add column deleted_at timestamptz;
-- What lay on top of its stack before: of an edit or a redo the step below, of an undo the one undone before it.
alter table revision add column below integer;

do $$
declare
  d record;
  r record;
  done integer[];
  back integer[];
begin
  for d in select id from document loop
    done := '{}';
    back := '{}';
    for r in select version, kind, target from revision where document_id = d.id order by version loop
      if r.kind = 'edit' then
        update revision set below = done[cardinality(done)] where document_id = d.id and version = r.version;
        done := done || r.version;
        back := '{}';
      elsif r.kind = 'undo' then
        update revision set below = back[cardinality(back)] where document_id = d.id and version = r.version;
        done := done[1:cardinality(done) - 1];
        back := back || r.version;
      elsif r.kind = 'redo' then
        back := back[1:cardinality(back) - 1];
        done := done || r.target;
      end if;
    end loop;
    update document set top = done[cardinality(done)], undone = back[cardinality(back)] where id = d.id;
  end loop;
end $$;
update document set deleted_at = now() where deleted;

-- A job whose process died runs in one of its own from then on; deaths are how often it ended that, which nobody else did.
alter table job add column apart boolean not null default false, add column deaths integer not null default 0;

-- A blob that is put or named again is young again.
alter table blob rename column created_at to used_at;
create index blob_ref_by_hash on blob_ref (hash);

-- A state of the project under a name: every document as it was.
create table kept_state (
  id uuid primary key,
  project_id text not null references project,
  name text not null,
  created_at timestamptz not null default now()
);
create table kept_document (
  state_id uuid not null references kept_state on delete cascade,
  document_id text not null references document,
  version integer not null,
  body jsonb not null,
  primary key (state_id, document_id)
);
create index kept_document_by_document on kept_document (document_id);
