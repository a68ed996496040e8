-- Documents, their revisions and live events; blobs in chunks; jobs.

create table project (
  id text primary key,
  event_seq bigint not null default 0,
  created_at timestamptz not null default now()
);
insert into project (id) values ('main');

create table document (
  id text primary key,
  project_id text not null references project,
  kind text not null,
  version integer not null,
  body jsonb not null,
  deleted boolean not null default false,
  created_at timestamptz not null default now()
);
create index document_by_project on document (project_id, kind) where not deleted;

-- One row a gesture. target is the version that an undo or redo turns over.
create table revision (
  document_id text not null references document on delete cascade,
  version integer not null,
  op_id uuid not null unique,
  kind text not null check (kind in ('create', 'edit', 'undo', 'redo')),
  target integer,
  label text not null,
  patch jsonb not null,
  inverse jsonb not null,
  created_at timestamptz not null default now(),
  primary key (document_id, version)
);

-- Numbered by project.event_seq inside the writing transaction, so that numbers are in commit order.
create table event (
  project_id text not null references project,
  seq bigint not null,
  data jsonb not null,
  created_at timestamptz not null default now(),
  primary key (project_id, seq)
);

create table blob (
  hash text primary key check (hash ~ '^[0-9a-f]{64}$'),
  bytes bigint not null,
  media_type text not null,
  created_at timestamptz not null default now()
);
create table blob_chunk (
  hash text not null references blob on delete cascade,
  idx integer not null,
  data bytea not null,
  primary key (hash, idx)
);
alter table blob_chunk alter column data set storage external;

-- Chunks of uploads under way; a row here belongs to nobody once its upload has ended or died.
create table upload_chunk (
  upload uuid not null,
  idx integer not null,
  data bytea not null,
  created_at timestamptz not null default now(),
  primary key (upload, idx)
);
alter table upload_chunk alter column data set storage external;

-- Which blobs a document has ever named: they outlive the revision that replaced them.
create table blob_ref (
  document_id text not null references document on delete cascade,
  hash text not null,
  primary key (document_id, hash)
);

create table job (
  id uuid primary key,
  project_id text not null references project,
  kind text not null,
  label text not null,
  payload jsonb not null,
  status text not null default 'waiting' check (status in ('waiting', 'running', 'done', 'failed', 'cancelled')),
  progress real not null default 0,
  note text not null default '',
  error text,
  result jsonb,
  attempt integer not null default 0,
  worker text,
  heartbeat timestamptz,
  cancel_asked boolean not null default false,
  created_at timestamptz not null default now(),
  ended_at timestamptz
);
create index job_open on job (project_id, created_at) where status in ('waiting', 'running');
