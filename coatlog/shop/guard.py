"""Append-only tables: the database itself refuses UPDATE, DELETE and TRUNCATE.

The role the application signs in by owns none of it and cannot take the guard away.  The test runner, and
who clears away a demo nobody belongs to, are heard only as one that could.
"""

from __future__ import annotations

__all__ = ["FUNCTION_SQL", "append_only_sql", "drop_guard_sql"]

FUNCTION_SQL = """
CREATE OR REPLACE FUNCTION coatlog_refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF (current_setting('coatlog.test_runner', true) = 'on'
      OR current_setting('coatlog.clears_demo', true) = 'on')
    AND (SELECT rolsuper FROM pg_roles WHERE rolname = session_user) THEN
    IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
    RETURN NEW;
  END IF;
  RAISE EXCEPTION '% is append-only: % refused. Write a new entry that strikes the old one.',
    TG_TABLE_NAME, TG_OP USING ERRCODE = 'restrict_violation';
END $$;
"""


def append_only_sql(table: str) -> str:
    """SQL that guards a table.  A row trigger alone would let TRUNCATE through."""
    return f"""{FUNCTION_SQL}
CREATE TRIGGER {table}_no_change BEFORE UPDATE OR DELETE ON {table}
  FOR EACH ROW EXECUTE FUNCTION coatlog_refuse_change();
CREATE TRIGGER {table}_no_truncate BEFORE TRUNCATE ON {table}
  FOR EACH STATEMENT EXECUTE FUNCTION coatlog_refuse_change();
"""


def drop_guard_sql(table: str) -> str:
    """SQL that takes the guard away again (migrating backwards)."""
    return f"DROP TRIGGER {table}_no_change ON {table}; DROP TRIGGER {table}_no_truncate ON {table};"
