-- Files of deliveries by what they were made of: the same again is not made again, nor what was done before a job was interrupted.
create table made (
  key text primary key,
  hash text not null references blob on delete cascade,
  bytes bigint not null,
  quality jsonb
);
create index made_by_hash on made (hash);
