package dev.zabbet.spring.internal.query;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import net.sf.jsqlparser.schema.Table;
import org.jspecify.annotations.Nullable;

/** Names as SQL has them: tables and columns. */
final class RowNames implements Names {
    private final Schema schema;
    private final @Nullable RowNames outer;
    private final Map<String, dev.zabbet.schema.Table> aliases = new LinkedHashMap<>();

    RowNames(Schema schema, @Nullable RowNames outer) {
        this.schema = schema;
        this.outer = outer;
    }

    @Override
    public Source source(Table table) throws UnsupportedQueryException {
        dev.zabbet.schema.Table found = schema.table(plain(table.getName()))
                .orElseThrow(() -> new UnsupportedQueryException("table " + table.getName()));
        String alias = plain(
                        table.getAlias() == null
                                ? table.getName()
                                : table.getAlias().getName())
                .toLowerCase(Locale.ROOT);
        aliases.put(alias, found);
        return new Source(alias, scope -> scope.call().rows(found.name()));
    }

    @Override
    public Value value(String name) throws UnsupportedQueryException {
        String[] parts = name.split("\\.");
        String column = plain(parts[parts.length - 1]);
        for (Map.Entry<String, dev.zabbet.schema.Table> entry : aliases.entrySet()) {
            boolean meant = parts.length == 1 || plain(parts[parts.length - 2]).equalsIgnoreCase(entry.getKey());
            Column found = meant ? entry.getValue().column(column).orElse(null) : null;
            if (found != null) {
                return column(entry.getKey(), found);
            }
        }
        if (outer != null) {
            return outer.value(name);
        }
        if (name.equalsIgnoreCase("true") || name.equalsIgnoreCase("false")) {
            return scope -> Boolean.valueOf(name);
        }
        throw new UnsupportedQueryException("column " + name);
    }

    private static Value column(String alias, Column column) {
        return scope -> scope.get(alias) instanceof Row row ? row.get(column.name()) : null;
    }

    @Override
    public Names inner() {
        return new RowNames(schema, this);
    }

    @Override
    public List<Item> star(String alias) throws UnsupportedQueryException {
        List<Item> items = new ArrayList<>();
        for (Map.Entry<String, dev.zabbet.schema.Table> entry : aliases.entrySet()) {
            if (alias.isEmpty() || plain(alias).equalsIgnoreCase(entry.getKey())) {
                for (Column column : entry.getValue().columns()) {
                    items.add(new Item(column.name(), column(entry.getKey(), column)));
                }
            }
        }
        if (items.isEmpty()) {
            throw new UnsupportedQueryException(alias + ".*");
        }
        return items;
    }

    static String plain(String name) {
        return name.replaceAll("[`\"\\[\\]]", "");
    }
}
