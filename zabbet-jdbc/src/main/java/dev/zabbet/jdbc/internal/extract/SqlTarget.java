package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.ExtractedRow;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.script.SqlInserts;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Writes an extract as SQL for the kind of database that it was taken from, keys as they are. */
public final class SqlTarget implements ExtractTarget {
    private static final int ROWS_AT_ONCE = 100;

    private final Path file;
    private final Path beside;
    private final List<Row> rows = new ArrayList<>();
    private final List<Load.Fill> fills = new ArrayList<>();
    private @Nullable Writer to;
    private @Nullable SqlInserts inserts;
    private @Nullable Dialect dialect;
    private @Nullable Connection connection;
    private @Nullable Schema schema;
    private @Nullable Table table;

    public SqlTarget(Path file) {
        this.file = file.toAbsolutePath();
        this.beside = this.file.resolveSibling(this.file.getFileName() + ".part");
    }

    /** Rows held in a list, with columns of which nothing is told yet. */
    private record Rows(Table table, List<Column> columns, List<Row> rows, Set<String> empty) implements RowSource {
        @Override
        public int size() {
            return rows.size();
        }

        @Override
        public @Nullable Object value(int row, int column) {
            String name = columns.get(column).name();
            return empty.contains(name) ? null : rows.get(row).get(name);
        }
    }

    void writesFor(Dialect of, Connection on) {
        dialect = of;
        connection = on;
    }

    @Override
    public boolean wantsLabels() {
        return false;
    }

    @Override
    public void begin(Schema tables, List<Table> written) {
        schema = tables;
        try {
            Path folder = file.getParent();
            if (folder != null) {
                Files.createDirectories(folder);
            }
            Writer writer = Files.newBufferedWriter(beside);
            to = writer;
            SqlInserts statements =
                    new SqlInserts(Objects.requireNonNull(dialect), Objects.requireNonNull(connection), writer);
            inserts = statements;
            statements.begin();
        } catch (IOException e) {
            throw cannot(e);
        }
    }

    @Override
    public void row(ExtractedRow row) {
        boolean same = table != null && table.equals(row.table());
        if (!same || rows.size() == ROWS_AT_ONCE) {
            flush();
            table = row.table();
        }
        rows.add(row.row());
    }

    private void flush() {
        Table of = table;
        if (of == null || rows.isEmpty()) {
            return;
        }
        List<Column> columns =
                of.columns().stream().filter(c -> rows.get(0).has(c.name())).toList();
        Set<String> later = laterColumns(of);
        List<Column> key = of.keyColumns().stream().map(of::requireColumn).toList();
        List<Column> first = columns.stream()
                .filter(c -> !later.contains(c.name()) || c.defaultText().isPresent()) // which would stand there
                .toList();
        List<Column> filled = new ArrayList<>(key);
        columns.stream().filter(c -> later.contains(c.name())).forEach(filled::add);
        try {
            List<Row> some = List.copyOf(rows);
            Objects.requireNonNull(inserts).insert(new Rows(of, first, some, later));
            List<Row> completed = some.stream()
                    .filter(row -> later.stream().anyMatch(c -> row.has(c) && row.get(c) != null))
                    .toList();
            if (!completed.isEmpty()) {
                fills.add(new Load.Fill(new Rows(of, filled, completed, Set.of()), key.size()));
            }
        } catch (IOException e) {
            throw cannot(e);
        } catch (SQLException e) {
            throw new ZabbetException("Nothing was written: " + e.getMessage(), e);
        }
        rows.clear();
    }

    /** Columns that refer to rows which come later are filled in when these are there. */
    private Set<String> laterColumns(Table of) {
        Set<String> later = new HashSet<>();
        for (Reference reference : of.references()) {
            boolean against = reference.target().equals(of.name())
                    || Objects.requireNonNull(schema).storingOrder().runsAgainst(of, reference);
            boolean canBeEmpty = reference.columns().stream()
                    .allMatch(c -> of.requireColumn(c).nullable());
            if (against && canBeEmpty && !of.keyColumns().isEmpty()) {
                later.addAll(reference.columns());
            }
        }
        of.keyColumns().forEach(later::remove);
        return later;
    }

    @Override
    public void end() {
        flush();
        try {
            SqlInserts statements = Objects.requireNonNull(inserts);
            for (Load.Fill fill : fills) {
                statements.update(fill);
            }
            statements.end();
            Objects.requireNonNull(to).close();
            to = null;
            Files.move(beside, file, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
        } catch (IOException e) {
            throw cannot(e);
        } catch (SQLException e) {
            throw new ZabbetException("Nothing was written: " + e.getMessage(), e);
        }
    }

    @Override
    public void close() {
        try {
            Writer open = to;
            to = null;
            if (open != null) {
                open.close();
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } finally {
            deleteBeside();
        }
    }

    private void deleteBeside() {
        try {
            Files.deleteIfExists(beside);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private ZabbetException cannot(IOException e) {
        return new ZabbetException("'" + file + "' cannot be written, and was not changed: " + e, e);
    }
}
