-- What a reader changed on a view and neither saved nor discarded, to be offered when they come back.
alter table view_reader add column draft jsonb, add column draft_at timestamptz;
