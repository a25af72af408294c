package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.files.internal.WrittenCondition;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Which rows {@code zabbet extract} takes. */
final class ExtractAsked {
    private static final Pattern PART = Pattern.compile("(.+?)=(\\d{1,9}|all|(\\d{1,2}(\\.\\d{1,6})?|100)%)");

    @Parameters(
            arity = "0..*",
            paramLabel = "TABLE=N",
            description = "The first N rows of a table; \"all\", or a share of them such as 1%%, always the same rows.")
    private List<String> tables = new ArrayList<>();

    @Option(
            names = "--key",
            paramLabel = "TABLE=KEY",
            description = "The row with a key; room=3,2 where it has several columns.")
    private List<String> keys = new ArrayList<>();

    @Option(
            names = "--where",
            arity = "2",
            paramLabel = "TABLE CONDITION",
            hideParamSyntax = true,
            description = "Only rows of the table for which it holds, as in zabbet look: guest \"born < 2000-01-01\".")
    private List<String> where = new ArrayList<>();

    @Option(
            names = "--where-sql",
            arity = "2",
            paramLabel = "TABLE SQL",
            hideParamSyntax = true,
            description = "The same in the database's own SQL.")
    private List<String> whereSql = new ArrayList<>();

    @Option(
            names = "--order",
            paramLabel = "TABLE=COLUMN",
            description =
                    "Which rows come first, by columns with commas between; a minus for descending: stay=-booked_at.")
    private List<String> order = new ArrayList<>();

    @Option(
            names = "--below",
            paramLabel = "TABLE[=N]",
            description =
                    "Rows that refer to these, at most N for each: ledger_entry=5, stay.hut_id=2 for one reference, or '*'"
                            + " for all.")
    private List<String> below = new ArrayList<>();

    @Option(names = "--depth", paramLabel = "N", description = "How many references down --below goes.")
    private @Nullable Integer depth;

    @Option(
            names = "--without",
            paramLabel = "COLUMN",
            split = ",",
            description =
                    "Leaves a column out: '*.booked_at'. It is filled when the rows are loaded. Of a document a place:"
                            + " hut.amenities.contact.")
    private List<String> without = new ArrayList<>();

    @Option(
            names = "--ref",
            paramLabel = "PLACE=TABLE",
            description =
                    "A place in documents that holds the key of a row: hut.amenities.wardenId=warden. The row comes along.")
    private List<String> refs = new ArrayList<>();

    @Option(
            names = "--most",
            paramLabel = "N",
            description = "Refuses to take more than N rows of a table; without it, 100000.")
    private @Nullable Integer most;

    @Option(
            names = "--timeout",
            paramLabel = "SECONDS",
            description = "Gives up a query after that time; without it, 30 seconds.")
    private @Nullable Integer timeout;

    Extract extract(DataSource database) {
        if (tables.isEmpty() && keys.isEmpty()) {
            throw new ZabbetException("Which rows? Name a table and a number: zabbet extract guest=10.");
        }
        Extract extract = null;
        for (String one : tables) {
            Matcher part = PART.matcher(one);
            if (!part.matches()) {
                throw new ZabbetException("'" + one + "' asks for no rows. Write TABLE=N, TABLE=all, or TABLE=1%.");
            }
            extract = with(extract, part.group(1), part.group(2));
        }
        for (String one : keys) {
            int sign = sign(one, "--key TABLE=KEY");
            String table = one.substring(0, sign);
            String text = one.substring(sign + 1);
            boolean several = text.contains(",")
                    && Jdbc.schema(database).require(table).keyColumns().size() > 1;
            Object[] key = several ? text.split(",", -1) : new Object[] {text};
            extract = extract == null ? Extract.key(table, key) : extract.andKey(table, key);
        }
        return further(java.util.Objects.requireNonNull(extract), database);
    }

    private static Extract with(@Nullable Extract before, String table, String how) {
        if (how.equals("all")) {
            return before == null ? Extract.all(table) : before.andAll(table);
        }
        if (how.endsWith("%")) {
            double share = Double.parseDouble(how.substring(0, how.length() - 1)) / 100;
            return before == null ? Extract.share(table, share) : before.andShare(table, share);
        }
        int rows = Integer.parseInt(how);
        return before == null ? Extract.rows(table, rows) : before.andRows(table, rows);
    }

    private Extract further(Extract rows, DataSource database) {
        Extract extract = rows;
        if (!where.isEmpty()) {
            Schema schema = Jdbc.schema(database);
            for (int i = 0; i < where.size(); i += 2) {
                Table table = schema.require(where.get(i));
                WrittenCondition.Part part = WrittenCondition.part(table, where.get(i + 1));
                extract = extract.where(table.name(), part.column(), part.value());
            }
        }
        for (int i = 0; i < whereSql.size(); i += 2) {
            extract = extract.whereSql(whereSql.get(i), whereSql.get(i + 1));
        }
        for (String one : order) {
            int sign = sign(one, "--order TABLE=COLUMN");
            extract = extract.order(
                    one.substring(0, sign), one.substring(sign + 1).split(","));
        }
        for (String one : below) {
            int sign = one.lastIndexOf('=');
            extract = sign < 0
                    ? extract.below(one)
                    : extract.below(one.substring(0, sign), number(one, one.substring(sign + 1)));
        }
        for (String one : refs) {
            int sign = sign(one, "--ref PLACE=TABLE");
            extract = extract.ref(one.substring(0, sign), one.substring(sign + 1));
        }
        extract = extract.without(without.toArray(String[]::new));
        extract = depth == null ? extract : extract.depth(depth);
        extract = most == null ? extract : extract.most(most);
        return timeout == null ? extract : extract.timeout(Duration.ofSeconds(timeout));
    }

    private static int sign(String text, String form) {
        int sign = text.indexOf('=');
        if (sign < 1 || sign == text.length() - 1) {
            throw new ZabbetException("'" + text + "' is not written as " + form + ".");
        }
        return sign;
    }

    private static int number(String whole, String text) {
        if (!text.matches("\\d{1,9}")) {
            throw new ZabbetException("'" + whole + "' is not written as --below TABLE=N.");
        }
        return Integer.parseInt(text);
    }
}
