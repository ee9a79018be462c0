#!/bin/sh
# Applies all migrations in order to an empty database.
set -eu
for migration in ledger/migrations/*.sql; do
  psql --quiet --set ON_ERROR_STOP=1 --file "$migration"
done
