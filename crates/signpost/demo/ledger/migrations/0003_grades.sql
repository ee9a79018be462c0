CREATE TABLE grade (
  lot TEXT NOT NULL REFERENCES lot (number),
  grade TEXT NOT NULL CONSTRAINT lot_grade_known CHECK (grade IN ('A', 'B', 'C')),
  recorded_at TIMESTAMPTZ NOT NULL,
  recorded_by TEXT NOT NULL
);
