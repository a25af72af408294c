package dev.zabbet.internal.seed;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.mapping.ColumnFit;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.seed.StreamedRows;
import dev.zabbet.store.RowSource;
import dev.zabbet.type.DataType;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Long rows as their columns' types. They are read once to look for what is wrong, and again to be stored; only the row at
 * hand is held. Not thread-safe.
 */
final class StreamedTable implements RowSource {
    private static final int MOST_TROUBLE = 20;

    private final StreamedRows rows;
    private final Table table;
    private final List<Column> columns = new ArrayList<>();
    private final List<Integer> at = new ArrayList<>();
    private final @Nullable Object[] current;
    private int size;
    private long greatest;
    private StreamedRows.@Nullable Reading reading;
    private int row = -1;

    private StreamedTable(StreamedRows rows, Table table) {
        this.rows = rows;
        this.table = table;
        this.current = new @Nullable Object[rows.columns().size()];
    }

    /** Finds the table and its columns and tries every row; what is wrong is added to the trouble. */
    static @Nullable StreamedTable of(StreamedRows rows, Schema schema, SeedProblems trouble) {
        Table table;
        try {
            table = schema.require(rows.table());
        } catch (UnknownNameException e) {
            trouble.add(rows.place(), e);
            return null;
        }
        StreamedTable all = new StreamedTable(rows, table);
        int before = trouble.size();
        for (int i = 0; i < rows.columns().size(); i++) {
            String name = rows.columns().get(i);
            Column column =
                    table.column(name).or(() -> table.columnForProperty(name)).orElse(null);
            if (column == null) {
                trouble.add(
                        rows.place(),
                        new UnknownNameException("column of table " + table.name(), name, table.columnNames()));
            } else if (column.isComputed()) {
                trouble.add(rows.place(), table.name() + "." + column.name() + " is computed and cannot be given.");
            } else {
                all.columns.add(column);
                all.at.add(i);
            }
        }
        if (trouble.size() > before) {
            return null;
        }
        all.tryAll(trouble);
        return trouble.size() > before ? null : all;
    }

    private void tryAll(SeedProblems trouble) {
        List<CheckCondition> checks = table.checks().stream()
                .map(check -> CheckCondition.of(table, check))
                .filter(check -> check.columns().stream().allMatch(name -> columns.stream()
                        .anyMatch(c -> c.name().equals(name))))
                .toList();
        int[] position = new int[table.columns().size()];
        Arrays.fill(position, -1);
        for (int i = 0; i < columns.size(); i++) {
            position[table.position(columns.get(i).name())] = i;
        }
        Column number = table.numberedColumn().orElse(null);
        int numberAt = number == null ? -1 : columns.indexOf(number);
        boolean[] mayBeTooLong = new boolean[columns.size()];
        for (int i = 0; i < mayBeTooLong.length; i++) {
            DataType type = columns.get(i).type();
            mayBeTooLong[i] =
                    type.length() != DataType.UNLIMITED || !type.labels().isEmpty();
        }
        int wrong = 0;
        try (StreamedRows.Reading from = rows.read()) {
            for (@Nullable String[] texts = from.next(); texts != null; texts = from.next()) {
                size = Math.addExact(size, 1);
                String clause = clauseOf(texts, checks, position, mayBeTooLong);
                if (clause != null) {
                    trouble.add(from.at(), clause);
                    if (++wrong == MOST_TROUBLE) {
                        trouble.add(from.at(), "Reading stopped here; what comes after was not looked at.");
                        return;
                    }
                } else if (numberAt >= 0 && current[numberAt] instanceof Long value) {
                    greatest = Math.max(greatest, value);
                }
            }
        }
    }

    /** Says what is wrong with a row; null if nothing is. */
    private @Nullable String clauseOf(
            @Nullable String[] texts, List<CheckCondition> checks, int[] position, boolean[] mayBeTooLong) {
        for (int i = 0; i < columns.size(); i++) {
            Column column = columns.get(i);
            String text = texts[at.get(i)];
            if (text == null && !column.nullable()) {
                return table.name() + "." + column.name()
                        + " does not allow null. An empty field is null; \"\" is empty text.";
            }
            try {
                current[i] = CanonicalForm.of(column.type(), text);
                if (mayBeTooLong[i]) {
                    ColumnFit.of(column, current[i]);
                }
            } catch (InexactValueException e) {
                return table.name() + "." + column.name() + " is "
                        + column.type().sqlName() + ", and " + e.clause() + ".";
            } catch (ColumnFit.MisfitException e) {
                return table.name() + "." + e.clause() + ".";
            }
        }
        for (CheckCondition check : checks) {
            if (check.evaluate(c -> current[position[c]]) == Verdict.BROKEN) {
                List<Object> shown = new ArrayList<>();
                check.columns().forEach(name -> shown.add(Row.row(name, current[position[table.position(name)]])));
                return "The row would break the check " + check.check().name() + " of " + table.name() + ", "
                        + check.check().text() + ", with " + Words.cut(shown.toString(), 200) + ".";
            }
        }
        return null;
    }

    /** Returns the greatest number that a row gives itself; 0 if none does. */
    long greatestNumber() {
        return greatest;
    }

    SourceLocation place() {
        return rows.place();
    }

    @Override
    public Table table() {
        return table;
    }

    @Override
    public List<Column> columns() {
        return List.copyOf(columns);
    }

    @Override
    public int size() {
        return size;
    }

    @Override
    public @Nullable Object value(int wanted, int column) {
        if (wanted != row) {
            moveTo(wanted);
        }
        return current[column];
    }

    private void moveTo(int wanted) {
        StreamedRows.Reading from = reading;
        if (from == null || wanted < row) {
            if (from != null) {
                from.close();
            }
            from = rows.read();
            reading = from;
            row = -1;
        }
        @Nullable String[] texts = null;
        while (row < wanted) {
            texts = from.next();
            row++;
            if (texts == null) {
                throw new ZabbetException(rows.place().where() + " was changed while it was read. Nothing was stored.");
            }
        }
        if (texts != null) {
            for (int i = 0; i < columns.size(); i++) {
                try {
                    current[i] = CanonicalForm.of(columns.get(i).type(), texts[at.get(i)]);
                } catch (InexactValueException e) {
                    throw new ZabbetException(
                            from.at().where() + " was changed while it was read. Nothing was stored.");
                }
            }
        }
        if (wanted == size - 1) {
            from.close();
            reading = null;
            // the last row is kept; an earlier row starts again from the beginning
        }
    }
}
