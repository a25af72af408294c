package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Iterator;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Sequences in H2, whose own text tells where they are, also of those that belong to a column, which no view shows. */
final class H2Sequences implements Sequences {
    private static final String NAME = "\"((?:[^\"]|\"\")*)\"\\.\"((?:[^\"]|\"\")*)\"";
    private static final Pattern QUALIFIED = Pattern.compile(NAME);
    private static final Pattern OF_COLUMN = Pattern.compile(" AS IDENTITY SEQUENCE (" + NAME + ")");
    private static final Pattern COUNTER = Pattern.compile(" START WITH (-?\\d+)(?: RESTART WITH (-?\\d+))?");
    private static final Pattern STEP = Pattern.compile(" INCREMENT BY (-?\\d+)");

    private final H2Dialect dialect;

    H2Sequences(H2Dialect dialect) {
        this.dialect = dialect;
    }

    @Override
    public List<String> names(Connection connection, Schema schema) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT QUOTE_IDENT(SEQUENCE_SCHEMA) || '.' || QUOTE_IDENT(SEQUENCE_NAME) FROM INFORMATION_SCHEMA.SEQUENCES WHERE SEQUENCE_SCHEMA"
                        + H2Dialect.NOT_ITS_OWN + " ORDER BY SEQUENCE_SCHEMA, SEQUENCE_NAME");
    }

    /** Returns the name of the sequence that belongs to a table's identity column, if it has one. */
    @Nullable
    String ofColumn(Connection connection, Table table) throws SQLException {
        String literals = dialect.literal(table.sqlSchema()) + ", " + dialect.literal(table.sqlName());
        String definition = SchemaDraft.first(
                        connection, "VALUES DB_OBJECT_SQL('TABLE', " + literals + ")", rows -> rows.getString(1))
                .orElse("");
        Matcher sequence = OF_COLUMN.matcher(definition);
        return sequence.find() ? sequence.group(1) : null;
    }

    @Override
    public Map<String, Long> next(Connection connection, Collection<String> names) throws SQLException {
        Map<String, Long> next = new HashMap<>();
        texts(connection, names).forEach((name, text) -> {
            Matcher counter = COUNTER.matcher(text);
            if (counter.find()) {
                String restarted = counter.group(2);
                next.put(name, Long.valueOf(restarted == null ? counter.group(1) : restarted));
            }
        });
        return next;
    }

    private Map<String, String> texts(Connection connection, Collection<String> names) throws SQLException {
        Map<String, String> texts = new HashMap<>();
        List<String> all = List.copyOf(names);
        Iterator<String> name = all.iterator();
        if (!all.isEmpty()) {
            dialect.readOften(
                    connection,
                    all.stream()
                            .map(each -> "(DB_OBJECT_SQL('SEQUENCE', " + literals(each) + "))")
                            .collect(Collectors.joining(", ", "VALUES ", "")),
                    rows -> texts.put(name.next(), String.valueOf(rows.getString(1))));
        }
        return texts;
    }

    private String literals(String name) {
        Matcher parts = QUALIFIED.matcher(name);
        if (!parts.matches()) {
            throw new IllegalArgumentException(name);
        }
        return dialect.literal(parts.group(1).replace("\"\"", "\"")) + ", "
                + dialect.literal(parts.group(2).replace("\"\"", "\""));
    }

    @Override
    public void restart(Connection connection, String name, long next) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER SEQUENCE " + name + " RESTART WITH " + next);
        }
    }

    @Override
    public long reserve(Connection connection, String name, long least, int count) throws SQLException {
        return reserveAsOthersDo(
                connection,
                name,
                least,
                count,
                numbers -> Sequences.taken(
                        connection, "SELECT NEXT VALUE FOR " + name + " FROM SYSTEM_RANGE(1, " + numbers + ")"));
    }

    /** Takes numbers one by one, however many, since to set a sequence commits. */
    long reserveWithoutCommit(Connection connection, String name, long least, int count) throws SQLException {
        long step = step(connection, name);
        long takes = step > 0 ? Sequences.beyond(0, count, step) / step : count;
        while (true) {
            LongSummaryStatistics taken = take(connection, name, takes);
            if (taken.getMin() >= least || step <= 0) {
                return step > 0 ? taken.getMin() : taken.getMax();
            }
            take(
                    connection,
                    name,
                    Math.max(1, (least - taken.getMax() - 1) / step)); // rows with explicit keys lie beyond it
        }
    }

    private static LongSummaryStatistics take(Connection connection, String name, long numbers) throws SQLException {
        return Sequences.taken(
                SharedTransaction.direct(connection),
                "SELECT NEXT VALUE FOR " + name + " FROM SYSTEM_RANGE(1, " + numbers + ")");
    }

    @Override
    public Set<String> inBlocks(Connection connection, Collection<String> names) throws SQLException {
        Set<String> inBlocks = new HashSet<>();
        texts(connection, names).forEach((name, text) -> {
            Matcher step = STEP.matcher(text);
            if (step.find() && !step.group(1).equals("1")) {
                inBlocks.add(name);
            }
        });
        return inBlocks;
    }

    @Override
    public long step(Connection connection, String name) throws SQLException {
        Matcher step = STEP.matcher(texts(connection, List.of(name)).getOrDefault(name, ""));
        return step.find() ? Long.parseLong(step.group(1)) : 1;
    }
}
