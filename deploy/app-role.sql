-- The role the web server and the planner sign in by: it reads and writes rows, owns nothing, and cannot take
-- away the guard of the append-only tables.  Run by the tables' owner, in the database; again after any version:
--   psql "$OWNER_URL" -v password="$APP_PASSWORD" -f deploy/app-role.sql
SELECT 'CREATE ROLE coatlog_app LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOINHERIT'
  WHERE NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'coatlog_app') \gexec
ALTER ROLE coatlog_app PASSWORD :'password';
REVOKE CREATE ON SCHEMA public FROM PUBLIC;
GRANT USAGE ON SCHEMA public TO coatlog_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO coatlog_app;
GRANT USAGE, SELECT, UPDATE ON ALL SEQUENCES IN SCHEMA public TO coatlog_app;
ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT SELECT, INSERT, UPDATE, DELETE ON TABLES TO coatlog_app;
ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT USAGE, SELECT, UPDATE ON SEQUENCES TO coatlog_app;
