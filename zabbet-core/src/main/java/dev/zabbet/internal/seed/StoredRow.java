package dev.zabbet.internal.seed;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A row that is stored already, known by a unique key. */
final class StoredRow {
    private StoredRow() {}

    /** The keys by which a row is known. */
    static List<UniqueKey> keys(Table table) {
        return Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .filter(UniqueKey::isPlain)
                .toList();
    }

    /**
     * Finds a row by what a seed says of it.
     *
     * @param trouble takes why there is none
     */
    static Optional<Row> find(Store store, Table table, Row key, List<String> trouble) {
        Set<String> columns = new HashSet<>();
        Condition where = Condition.all();
        try {
            for (String name : key.columns()) {
                Column column = table.column(name)
                        .or(() -> table.columnForProperty(name))
                        .orElseThrow(() ->
                                new UnknownNameException("column of table " + table.name(), name, table.columnNames()));
                columns.add(column.name());
                where = where.and(new Condition.Equal(column.name(), value(table, column, key.get(name))));
            }
        } catch (ZabbetException e) {
            trouble.add(String.valueOf(e.getMessage()));
            return Optional.empty();
        }
        if (keys(table).stream().noneMatch(unique -> columns.equals(Set.copyOf(unique.columns())))) {
            List<String> known = keys(table).stream()
                    .map(unique -> String.join(" + ", unique.columns()))
                    .toList();
            trouble.add("{stored: …} finds a row of " + table.name() + " by a unique key: "
                    + (known.isEmpty() ? "it has none" : String.join(", or ", known)) + ". This gives "
                    + String.join(", ", key.columns()) + ".");
            return Optional.empty();
        }
        List<Row> found = store.rows(table, where);
        if (found.isEmpty()) {
            trouble.add("There is no stored row of " + table.name() + " with " + Words.cut(key.toString(), 200)
                    + ". Store it before, or give it a label and write it here.");
        }
        return found.stream().findFirst();
    }

    private static @Nullable Object value(Table table, Column column, @Nullable Object value) {
        try {
            return CanonicalForm.of(column.type(), value);
        } catch (InexactValueException e) {
            throw new ZabbetException(table.name() + "." + column.name() + " is "
                    + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    /** What a stored row has otherwise than a seed says, as clauses. */
    static List<String> differences(SeedEntry entry, Row stored) {
        List<String> differences = new ArrayList<>();
        entry.values.forEach((column, value) -> {
            RowPart part = RowPart.of(entry.table, column);
            Object held = part.in(stored);
            boolean same = part.isColumn()
                    ? ValueEquality.asStored(part.column().type(), value, held)
                    : Json.same(value, held);
            boolean besides = part.isColumn()
                    && entry.values.keySet().stream()
                            .anyMatch(other -> !other.equals(column) && part.covers(RowPart.of(entry.table, other)));
            if (!(value instanceof SeedValue) && !same && !besides) {
                differences.add(column + " is " + Text.brief(held) + ", not " + Text.brief(value));
            }
        });
        return differences;
    }
}
