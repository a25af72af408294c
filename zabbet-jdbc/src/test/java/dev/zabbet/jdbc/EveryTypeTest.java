package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.util.List;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * A value of each type, written by the database itself, reads the same however often it is read (drivers turn to other
 * ways after some times), comes back as it was, and can be stored again as it was read.
 */
class EveryTypeTest {
    private static final int OFTEN = 9; // PostgreSQL's driver turns to binary after five times

    /** Types and values in SQL, parted by a bar; the first stands in each column of one row. */
    private static List<String> values(Engine engine) {
        return switch (engine) {
            case H2 ->
                List.of(
                        "BOOLEAN|TRUE",
                        "TINYINT|-128",
                        "BIGINT|9223372036854775807",
                        "NUMERIC(10, 2)|3.10",
                        "DECFLOAT|1E-30",
                        "REAL|0.1",
                        "DOUBLE PRECISION|0.1",
                        "CHAR(5)|'x'",
                        "VARCHAR(30)|'äöü 山'",
                        "VARCHAR_IGNORECASE(30)|'MiXed'",
                        "CLOB|'a long text'",
                        "BLOB|X'00ff'",
                        "BINARY(3)|X'000102'",
                        "VARBINARY(20)|X'00ff'",
                        "DATE|'0044-03-15'",
                        "TIME(9)|'23:59:59.999999999'",
                        "TIME WITH TIME ZONE|'10:00:00+02:00'",
                        "TIMESTAMP(9)|'2031-03-30 02:30:00.123456789'",
                        "TIMESTAMP WITH TIME ZONE|'2031-03-30 02:30:00.123456+02:00'",
                        "INTERVAL YEAR TO MONTH|INTERVAL '1-2' YEAR TO MONTH",
                        "INTERVAL DAY TO SECOND|INTERVAL '1 02:03:04.5' DAY TO SECOND",
                        "UUID|'00000000-0000-4000-8000-000000000001'",
                        "JSON|JSON '{\"a\": [1, null]}'",
                        "ENUM('A', 'B')|'B'",
                        "INT ARRAY|ARRAY[1, NULL, 3]",
                        "DATE ARRAY|ARRAY[DATE '2031-07-01', NULL]",
                        "TIMESTAMP ARRAY|ARRAY[TIMESTAMP '2031-07-01 10:00:00']",
                        "VARCHAR(10) ARRAY|ARRAY['a', 'x y']");
            case SQLITE ->
                List.of(
                        "INTEGER|9007199254740993",
                        "REAL|0.1",
                        "DECIMAL(10, 2)|3.5",
                        "VARCHAR(30)|'äöü 山'",
                        "TEXT|12",
                        "BLOB|X'00ff'",
                        "BOOLEAN|1",
                        "DATE|'2031-07-01'",
                        "TIMESTAMP|'2031-03-30 02:30:00.123'",
                        "UUID|'00000000-0000-4000-8000-000000000001'",
                        "JSON|'{\"a\": [1, null]}'");
            case POSTGRES ->
                List.of(
                        "boolean|true",
                        "smallint|-3",
                        "bigint|9223372036854775807",
                        "numeric|1e-30",
                        "numeric(10, 2)|3.10",
                        "real|0.1",
                        "real|3.4e38",
                        "double precision|'-Infinity'",
                        "money|12.34",
                        "char(5)|'x'",
                        "text|'äöü 山'",
                        "name|'abc'",
                        "bytea|'\\x00ff'",
                        "date|'0044-03-15 BC'",
                        "date|'infinity'",
                        "time(3)|'10:00:00.123'",
                        "timetz|'10:00:00+02'",
                        "timestamp|'0044-03-15 10:00 BC'",
                        "timestamptz|'2031-03-30 02:30:00.123456+02'",
                        "timestamptz|'-infinity'",
                        "timestamptz|'infinity'",
                        "timestamp|'infinity'",
                        "interval|'1 mon -2 days 03:04:05.678901'",
                        "uuid|'00000000-0000-4000-8000-000000000001'",
                        "json|'{\"a\":   1}'",
                        "jsonb|'{\"a\": [1, null]}'",
                        "xml|'<a/>'",
                        "bit(3)|B'101'",
                        "bit varying(9)|B''",
                        "inet|'10.0.0.1/8'",
                        "macaddr|'08:00:2b:01:02:03'",
                        "point|'(1,2)'",
                        "box|'((1,2),(0,0))'",
                        "line|'{1,2,3}'",
                        "polygon|'((1,2),(3,4))'",
                        "circle|'<(1,2),3>'",
                        "int4range|'[1,5)'",
                        "tstzrange|'[2031-01-01 00:00+00,)'",
                        "tsvector|'a b'",
                        "oid|4294967295",
                        "pg_lsn|'16/B374D848'",
                        "int[]|'{1,NULL,3}'",
                        "int[]|'{{1,2},{3,4}}'",
                        "text[]|'{a,NULL,\"x y\",\"q\\\"\\\\\"}'",
                        "real[]|'{0.1,NaN}'",
                        "date[]|'{2031-07-01,NULL}'",
                        "timestamp[]|'{2031-07-01 10:00:00}'",
                        "timestamptz[]|'{2031-03-30 02:30:00+02}'",
                        "bytea[]|'{\"\\\\x00ff\"}'",
                        "uuid[]|'{00000000-0000-4000-8000-000000000001}'");
            case MARIADB ->
                List.of(
                        "TINYINT(1)|1",
                        "BIGINT UNSIGNED|18446744073709551615",
                        "DECIMAL(10, 2)|3.10",
                        "FLOAT|0.1",
                        "DOUBLE|1e-300",
                        "CHAR(5)|'x'",
                        "VARCHAR(30)|'äöü 山'",
                        "LONGTEXT|'a long text'",
                        "VARBINARY(20)|X'00ff'",
                        "BLOB|X'00ff'",
                        "DATE|'1000-01-01'",
                        "TIME(3)|'23:59:59.999'",
                        "TIME(3)|'-100:00:00'",
                        "DATETIME(6)|'2031-03-30 02:30:00.123456'",
                        "TIMESTAMP(6) NULL|'2031-03-30 02:30:00.123456'",
                        "YEAR|2031",
                        "BIT(5)|b'10101'",
                        "BIT(16)|b'1010100000000'",
                        "ENUM('A', 'B')|'B'",
                        "SET('p', 'q')|'p,q'",
                        "JSON|'{\"a\": [1, null]}'",
                        "UUID|'00000000-0000-4000-8000-000000000001'",
                        "INET6|'::1'",
                        "POINT|ST_GeomFromText('POINT(1 2)')");
        };
    }

    /** What the application's URL may say: how the driver sends statements and values, and how the server takes them. */
    private static List<String> settings(Engine engine) {
        return switch (engine) {
            case H2 -> List.of("", ";TIME ZONE=Asia/Kolkata", ";MODE=PostgreSQL;DATABASE_TO_LOWER=TRUE", ";MODE=MySQL");
            case SQLITE -> List.of("", "&transaction_mode=IMMEDIATE", "&journal_mode=WAL&synchronous=NORMAL");
            case POSTGRES ->
                List.of(
                        "",
                        "&preferQueryMode=simple",
                        "&prepareThreshold=0",
                        "&prepareThreshold=-1&binaryTransfer=true",
                        "&stringtype=unspecified&reWriteBatchedInserts=true",
                        "&autosave=always&defaultRowFetchSize=1",
                        "&options=-c%20TimeZone=Asia/Kolkata%20-c%20datestyle=German%20-c%20extra_float_digits=0");
            case MARIADB ->
                List.of(
                        "",
                        "&useServerPrepStmts=true",
                        "&allowMultiQueries=true&useBulkStmts=true",
                        "&tinyInt1isBit=false&transformedBitIsBoolean=false&yearIsDateType=false",
                        "&connectionTimeZone=+05:30&forceConnectionTimeZoneToSession=true",
                        "&sessionVariables=sql_mode='ANSI_QUOTES,NO_BACKSLASH_ESCAPES'",
                        "&sessionVariables=sql_mode='TRADITIONAL,PIPES_AS_CONCAT',time_zone='-03:00'");
        };
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void staysWhatItIs(Engine engine) {
        Row plain = null;
        for (String settings : settings(engine)) {
            try {
                Row row = staysWhatItIs(engine, settings);
                if (plain != null) {
                    same(values(engine), plain, row, "as without settings");
                }
                plain = plain == null ? row : plain;
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(engine + " " + settings + ": " + e.getMessage(), e);
            }
        }
    }

    private static Row staysWhatItIs(Engine engine, String settings) {
        List<String> values = values(engine);
        StringBuilder ddl = new StringBuilder("CREATE TABLE thing (id ${id}");
        StringBuilder names = new StringBuilder();
        StringBuilder literals = new StringBuilder();
        for (int i = 0; i < values.size(); i++) {
            String[] parts = values.get(i).split("\\|", 2);
            ddl.append(", c").append(i).append(' ').append(parts[0]);
            names.append(i == 0 ? "" : ", ").append('c').append(i);
            literals.append(i == 0 ? "" : ", ").append(parts[1]);
        }
        String url = engine.emptyUrl();
        DataSource plain = Jdbc.dataSource(url, engine == Engine.H2 ? "sa" : "", "");
        Jdbc.dedicate(plain);
        Engine.execute(
                plain,
                (ddl + ")").replace("${id}", engine.id),
                "INSERT INTO thing (" + names + ") VALUES (" + literals + ")");
        DataSource database = Jdbc.dataSource(url + settings, engine == Engine.H2 ? "sa" : "", "");
        try (Stage stage = Jdbc.stage(database)) {
            Row first = stage.rows("thing").get(0);
            for (int i = 1; i < OFTEN; i++) {
                same(values, first, stage.rows("thing").get(0), "read again");
                stage.expect("thing").holdsOnly(first);
            }
            RewindPoint point = stage.mark();
            stage.act(() -> Engine.execute(database, "DELETE FROM thing"))
                    .expect()
                    .removed("thing", first)
                    .nothingElse();
            stage.rewind(point);
            same(values, first, stage.rows("thing").get(0), "after a rewind");
            Factory<Row> again = Factory.forTable("thing");
            for (String column : first.columns()) {
                again = column.equals("id") ? again : again.with(column, first.get(column));
            }
            stage.add(again);
            same(values, first, stage.rows("thing").get(1), "stored again");
            return first;
        }
    }

    private static void same(List<String> values, Row first, Row now, String when) {
        for (int i = 0; i < values.size(); i++) {
            if (when.startsWith("as without") && values.get(i).startsWith("TIMESTAMP(6) NULL")) {
                continue; // MariaDB shows it in the time zone of the connection
            }
            String column = "c" + i;
            assertEquals(
                    Row.row("value", first.get(column)),
                    Row.row("value", now.get(column)),
                    values.get(i) + ", " + when);
        }
    }
}
