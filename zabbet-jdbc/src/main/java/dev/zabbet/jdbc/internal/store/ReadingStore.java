package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.jdbc.internal.script.SqlInserts;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowAtHand;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import javax.sql.DataSource;

/** A database that is only read, so that it need not be dedicated; key reservations are simulated, never written. */
public final class ReadingStore implements Store, SqlInserts.Writable {
    private final Session session;
    private final Dialect dialect;
    private final DatabaseIdentity place;
    private final Schema schema;
    /** By table, the last ordinal; by counter, the next number. */
    private final Map<String, Long> numbers = new HashMap<>();

    private ReadingStore(Session session, Dialect dialect, DatabaseIdentity place, Schema schema) {
        this.session = session;
        this.dialect = dialect;
        this.place = place;
        this.schema = schema;
    }

    public static ReadingStore open(DataSource dataSource) {
        Session session = new Session(dataSource);
        try {
            Dialect dialect = session.call("The database cannot be opened", Engines::of);
            DatabaseIdentity place = session.call("The database cannot be opened", dialect::place);
            return new ReadingStore(
                    session, dialect, place, session.call("The schema cannot be read", dialect::readSchema));
        } catch (RuntimeException e) {
            session.close();
            throw e;
        }
    }

    @Override
    public Schema schema() {
        return schema;
    }

    @Override
    public String description() {
        return place.describe();
    }

    /** Gives the numbers that {@link Dialect#reserve} would give; tables that share a counter get others. */
    @Override
    public long reserve(Table table, int count) {
        Column numbered = table.numberedColumn().orElse(null);
        if (numbered == null) {
            long last = numbers.computeIfAbsent(table.name(), name -> count(table));
            numbers.put(table.name(), last + count);
            return last + 1;
        }
        return session.call("Table " + table.name() + " cannot be read", connection -> {
            String counter = numbered.sequence().orElse(table.name());
            Long known = numbers.get(counter);
            long next = Math.max(
                    new TableSql(dialect, table).max(connection, numbered) + 1,
                    known != null
                            ? known
                            : dialect.counters(connection, List.of(table)).getOrDefault(table, 1L));
            long step = dialect.step(connection, numbered);
            numbers.put(counter, Sequences.beyond(next, count, step));
            return next;
        });
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .read(connection, where, reader));
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return session.call("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .any(connection, where));
    }

    @Override
    public void readStreaming(Table table, Condition where, Consumer<RowAtHand> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .readStreaming(connection, where, reader));
    }

    @Override
    public long count(Table table) {
        return session.call("Table " + table.name() + " cannot be read", c -> new TableSql(dialect, table).count(c));
    }

    @Override
    public Optional<Boolean> keeps(Table table, Check check, Row row) {
        return session.call("", connection -> new TableSql(dialect, table).keeps(connection, check, row));
    }

    @Override
    public boolean isExact() {
        return dialect.isExact();
    }

    @Override
    public void writeInserts(Load load, Appendable to) {
        session.run("The statements cannot be written", c -> new SqlInserts(dialect, c, to).write(load));
    }

    @Override
    public Optional<Row> labelled(Table table, String label) {
        Optional<Condition> key = session.call(
                "The labels cannot be read", connection -> new LabelTable(dialect).find(connection, table, label));
        return key.flatMap(where -> rows(table, where).stream().findFirst());
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.empty();
    }

    @Override
    public void store(Load load) {
        throw onlyRead();
    }

    @Override
    public void clear(List<Table> tables) {
        throw onlyRead();
    }

    @Override
    public Watch watch() {
        throw onlyRead();
    }

    @Override
    public RewindPoint mark() {
        throw onlyRead();
    }

    @Override
    public void rewind(RewindPoint point) {
        throw onlyRead();
    }

    private ZabbetException onlyRead() {
        return new ZabbetException(
                "This stage only reads " + place.describe() + ". Open it by Jdbc.stage(dataSource).");
    }

    @Override
    public void close() {
        session.close();
    }
}
