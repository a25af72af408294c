package dev.zabbet.files.internal.suite;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A table that tests have had.
 *
 * @param columns its columns, in order
 */
public record SuiteTable(String name, List<SuiteColumn> columns) {

    /**
     * A column.
     *
     * @param type as SQL writes it
     * @param mark {@code key}, {@code reference}, or empty
     */
    public record SuiteColumn(String name, String type, String mark) {}

    Map<String, @Nullable Object> tree() {
        Map<String, @Nullable Object> tree = new LinkedHashMap<>();
        tree.put("name", name);
        tree.put(
                "columns",
                columns.stream()
                        .map(column -> {
                            Map<String, Object> one = new LinkedHashMap<>();
                            one.put("name", column.name());
                            one.put("type", column.type());
                            if (!column.mark().isEmpty()) {
                                one.put("mark", column.mark());
                            }
                            return one;
                        })
                        .toList());
        return tree;
    }

    static SuiteTable of(Tree tree) {
        return new SuiteTable(
                tree.text("name"),
                tree.list("columns").stream()
                        .map(column -> new SuiteColumn(column.text("name"), column.text("type"), column.text("mark")))
                        .toList());
    }
}
