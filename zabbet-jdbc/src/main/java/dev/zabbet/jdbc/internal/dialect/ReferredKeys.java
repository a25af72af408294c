package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The different keys that rows refer to by one reference, noted while they are stored: to look for those is faster than
 * to go through the rows again.
 */
public final class ReferredKeys {
    private static final int MOST = 50_000;
    private static final int AT_ONCE = 1_000;

    private final Dialect dialect;
    private final Table target;
    private final String targetColumns;
    private final List<Column> columns;
    private final int[] positions;
    private final Set<List<Object>> keys = new HashSet<>();
    private boolean known;

    public ReferredKeys(Dialect dialect, Schema schema, RowSource rows, Reference reference) {
        this.dialect = dialect;
        this.target = schema.require(reference.target());
        this.targetColumns = reference.targetColumns().stream()
                .map(c -> dialect.quote(target.requireColumn(c).sqlName()))
                .collect(Collectors.joining(", "));
        this.columns =
                reference.columns().stream().map(rows.table()::requireColumn).toList();
        List<String> names = rows.columns().stream().map(Column::name).toList();
        this.positions = reference.columns().stream().mapToInt(names::indexOf).toArray();
        this.known = Arrays.stream(positions).noneMatch(at -> at < 0); // what the database fills in is not known
    }

    /** Notes the key that a row refers to; a null in it refers to nothing (MATCH SIMPLE of SQL). */
    public void note(@Nullable Object[] row) {
        if (!known) {
            return;
        }
        @Nullable Object[] key = new @Nullable Object[positions.length];
        for (int i = 0; i < key.length; i++) {
            key[i] = row[positions[i]];
            if (key[i] == null) {
                return;
            }
            known &= !(key[i] instanceof byte[]);
        }
        keys.add(known ? List.of(key) : List.of());
        known &= keys.size() <= MOST;
    }

    /** Tells whether all keys are there; false also if that is not known. */
    public boolean areThere(Connection connection) throws SQLException {
        if (!known) {
            return false;
        }
        List<List<Object>> all = new ArrayList<>(keys);
        for (int from = 0; from < all.size(); from += AT_ONCE) {
            if (!areThere(connection, all.subList(from, Math.min(all.size(), from + AT_ONCE)))) {
                return false;
            }
        }
        return true;
    }

    private boolean areThere(Connection connection, List<List<Object>> some) throws SQLException {
        String one = "("
                + String.join(", ", columns.stream().map(dialect::placeholder).toList()) + ")";
        String sql = "SELECT COUNT(*) FROM (SELECT DISTINCT " + targetColumns + " FROM " + dialect.name(target)
                + " WHERE (" + targetColumns + ") IN (" + String.join(", ", Collections.nCopies(some.size(), one))
                + ")) found";
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            int index = 1;
            for (List<Object> key : some) {
                for (int i = 0; i < key.size(); i++) {
                    dialect.bind(statement, index++, columns.get(i), key.get(i));
                }
            }
            try (ResultSet found = statement.executeQuery()) {
                return found.next() && found.getInt(1) == some.size();
            }
        }
    }
}
