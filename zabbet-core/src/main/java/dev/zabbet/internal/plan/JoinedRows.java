package dev.zabbet.internal.plan;

import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.schema.Column;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The rows that a plan has of objects whose superclasses have tables of their own (Jakarta Persistence 3.1, 2.13.2): one in
 * each table, all with one key.
 */
final class JoinedRows {
    private final Plan plan;
    private final Map<Node, Map<String, String>> columns = new LinkedHashMap<>(); // by properties

    private JoinedRows(Plan plan) {
        this.plan = plan;
    }

    static JoinedRows of(Plan plan, Recipe<?> factory) {
        JoinedRows rows = new JoinedRows(plan);
        Node own = plan.nodes().get(0);
        if (plan.size(own) > 0) {
            factory.shape().map(TypeShape::above).orElse(Map.of()).forEach((table, columns) -> plan.nodes().stream()
                    .filter(node -> node != own && node.table.name().equalsIgnoreCase(table) && rows.isOf(own, node))
                    .findFirst()
                    .ifPresent(node -> rows.columns.put(node, columns)));
        }
        return rows;
    }

    /** Other rows of the same table may be parents that are referred to. */
    private boolean isOf(Node own, Node above) {
        return plan.size(above) == plan.size(own) && Objects.equals(key(own, 0), key(above, 0));
    }

    private List<@Nullable Object> key(Node node, int row) {
        List<@Nullable Object> key = new ArrayList<>();
        node.table.keyColumns().forEach(column -> key.add(plan.value(node, row, node.table.requirePosition(column))));
        return key;
    }

    /** Returns the nodes of the tables above. */
    List<Node> nodes() {
        return List.copyOf(columns.keySet());
    }

    /** Returns what the tables above hold for the object of a row, by its properties. */
    Function<Prop, @Nullable Object> at(int row) {
        return prop -> {
            for (Map.Entry<Node, Map<String, String>> above : columns.entrySet()) {
                String name = above.getValue().get(prop.name());
                Column column =
                        name == null ? null : above.getKey().table.column(name).orElse(null);
                if (column != null) {
                    Object value =
                            plan.value(above.getKey(), row, above.getKey().table.requirePosition(column.name()));
                    return constant(prop, value);
                }
            }
            return null;
        };
    }

    /** A constant of an enum may be kept as its number. */
    static @Nullable Object constant(Prop prop, @Nullable Object value) {
        return value instanceof Number ordinal && prop.type().isEnum()
                ? prop.type().getEnumConstants()[ordinal.intValue()]
                : value;
    }
}
