package dev.zabbet.jdbc.internal.postgres;

/** The statements of PostgreSQL's journal. */
final class PostgresJournalSql {
    static final String OF_THE_USER = " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p')"
            + " AND c.oid >= 16384 AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')";

    /** A state of ours: none that the server has. */
    static final String NOTED_MEANWHILE = "ZB026";

    /**
     * A writer locks the journal before it looks whether anything is to be noted; whoever lets notes begin looks at that
     * lock afterwards. What is being noted stands in a sequence, which shows everybody the same at once, whatever their
     * snapshot.
     */
    static final String INSTALL = """
            CREATE SCHEMA IF NOT EXISTS zabbet;
            CREATE TABLE zabbet.journal (
                number bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, tab oid NOT NULL, before text, after text);
            CREATE SEQUENCE zabbet.noting MINVALUE 0 START 0;
            CREATE TABLE zabbet.altered (number bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY);
            CREATE FUNCTION zabbet.note() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
                SET search_path = pg_catalog SET datestyle = 'ISO, MDY' SET intervalstyle = 'postgres'
                SET timezone = 'UTC' SET extra_float_digits = 1 SET bytea_output = 'hex' AS $note$
            BEGIN
                IF TG_OP = 'INSERT' THEN
                    INSERT INTO zabbet.journal (tab, after) SELECT TG_RELID, NEW::text FROM zabbet.noting WHERE last_value > 0;
                ELSIF TG_OP = 'UPDATE' THEN
                    INSERT INTO zabbet.journal (tab, before, after) SELECT TG_RELID, OLD::text, NEW::text
                        FROM zabbet.noting WHERE last_value > 0;
                ELSIF TG_OP = 'DELETE' THEN
                    INSERT INTO zabbet.journal (tab, before) SELECT TG_RELID, OLD::text FROM zabbet.noting WHERE last_value > 0;
                ELSE
                    LOCK TABLE zabbet.journal IN ROW EXCLUSIVE MODE;
                    IF (SELECT last_value FROM zabbet.noting) > 0 THEN
                        EXECUTE format('INSERT INTO zabbet.journal (tab, before) SELECT zabbet_row.tableoid, zabbet_row::text'
                            ' FROM ONLY %s zabbet_row', TG_RELID::regclass);
                    END IF;
                END IF;
                RETURN NULL;
            END $note$;
            CREATE FUNCTION zabbet.forget(since bigint, seen bigint) RETURNS void LANGUAGE plpgsql AS $forget$
            DECLARE
                own CONSTANT bigint := txid_current() % 4294967296;
            BEGIN
                IF EXISTS (SELECT 1 FROM zabbet.journal j WHERE j.number > seen AND j.xmin::text::bigint <> own) THEN
                    RAISE EXCEPTION 'others have changed rows meanwhile' USING ERRCODE = '{noted}';
                END IF;
                DELETE FROM zabbet.journal j WHERE j.number > since AND (j.number <= seen OR j.xmin::text::bigint = own);
            END $forget$;
            """.replace("{noted}", NOTED_MEANWHILE);

    private static final String LOOK = """
            CREATE FUNCTION zabbet.newest() RETURNS text LANGUAGE sql STABLE AS $newest$ {newest} $newest$;
            CREATE FUNCTION zabbet.look(since bigint, waiting boolean, counting boolean)
                RETURNS TABLE (number bigint, tab oid, before text, after text) LANGUAGE plpgsql AS $look$
            BEGIN
                IF waiting THEN
                    PERFORM set_config('lock_timeout', '2s', true);
                    LOCK TABLE zabbet.journal IN SHARE MODE;
                END IF;
                number := (SELECT coalesce(max(j.number), 0) FROM zabbet.journal j);
                before := ({newest});
                IF counting THEN
                    after := (SELECT coalesce(string_agg(s.seqrelid || ':' || s.last, ','), '')
                        FROM (SELECT p.seqrelid, pg_sequence_last_value(p.seqrelid) AS last FROM pg_sequence p) s
                        WHERE s.last IS NOT NULL);
                END IF;
                RETURN NEXT;
                IF since >= 0 THEN
                    RETURN QUERY SELECT j.number, j.tab, j.before, j.after FROM zabbet.journal j WHERE j.number > since
                        ORDER BY j.number;
                END IF;
            END $look$;
            """;

    /** The server tells of an event for each change of a table, if a superuser has asked for that. */
    static final String EVENTS = """
            CREATE FUNCTION zabbet.altered() RETURNS event_trigger LANGUAGE plpgsql SECURITY DEFINER
                SET search_path = pg_catalog AS $altered$
            BEGIN
                INSERT INTO zabbet.altered DEFAULT VALUES;
            END $altered$;
            CREATE EVENT TRIGGER zabbet_altered ON ddl_command_end EXECUTE FUNCTION zabbet.altered();
            ALTER EVENT TRIGGER zabbet_altered ENABLE ALWAYS;
            """
            + LOOK.replace("{newest}", "SELECT count(*) || '/' || coalesce(max(a.number), 0) FROM zabbet.altered a");

    static final String FOUND_NEWEST =
            "SELECT count(*) || '/' || coalesce(max(c.xmin::text::bigint), 0) FROM pg_class c" + OF_THE_USER;

    static final String NO_EVENTS = LOOK.replace("{newest}", FOUND_NEWEST);

    static final String UNINSTALL = """
            DROP EVENT TRIGGER IF EXISTS zabbet_altered;
            DROP FUNCTION IF EXISTS zabbet.note(), zabbet.forget(bigint, bigint), zabbet.look(bigint, boolean, boolean), zabbet.newest(),
                zabbet.altered() CASCADE;
            DROP TABLE IF EXISTS zabbet.journal, zabbet.altered;
            DROP SEQUENCE IF EXISTS zabbet.noting;
            """;

    private PostgresJournalSql() {}
}
