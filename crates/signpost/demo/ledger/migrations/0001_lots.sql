CREATE TABLE lot (
  number TEXT PRIMARY KEY CHECK (number ~ '^HB-[0-9]{6}$'),
  species TEXT NOT NULL,
  recorded_at TIMESTAMPTZ NOT NULL,
  recorded_by TEXT NOT NULL
);
