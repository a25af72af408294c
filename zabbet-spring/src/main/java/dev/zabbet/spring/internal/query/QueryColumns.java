package dev.zabbet.spring.internal.query;

import dev.zabbet.fake.Tables;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.Map;
import java.util.Objects;

/** How entities, and rows, lie in the table that a query changes. */
final class QueryColumns {
    private QueryColumns() {}

    /** The columns of an entity's properties; that of a relation is its key's. */
    record OfEntity(Class<?> type, Table of) implements ChangeQuery.Columns {
        @Override
        public String table() {
            return of.name();
        }

        @Override
        public String column(String name) throws UnsupportedQueryException {
            return ColumnMapping.laidOut(Operators.shape(type), of, Map.of())
                    .find(name)
                    .flatMap(prop -> ColumnMapping.column(of, prop, Map.of()))
                    .orElseThrow(() -> new UnsupportedQueryException(name))
                    .name();
        }

        @Override
        public List<Object> key(Object found, Tables tables) {
            return tables.keyOf(found);
        }

        @Override
        public void delete(List<Object> key, Tables tables) {
            tables.deleteUnread(type, key);
        }
    }

    /** The columns of a table. */
    record OfTable(Table of) implements ChangeQuery.Columns {
        @Override
        public String table() {
            return of.name();
        }

        @Override
        public String column(String name) throws UnsupportedQueryException {
            return of.column(RowNames.plain(name))
                    .orElseThrow(() -> new UnsupportedQueryException("column " + name))
                    .name();
        }

        @Override
        public List<Object> key(Object found, Tables tables) {
            return of.keyColumns().stream()
                    .<Object>map(column -> Objects.requireNonNull(((Row) found).get(column)))
                    .toList();
        }

        @Override
        public void delete(List<Object> key, Tables tables) {
            tables.delete(of.name(), key);
        }
    }
}
