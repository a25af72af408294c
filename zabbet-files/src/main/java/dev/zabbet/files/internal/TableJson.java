package dev.zabbet.files.internal;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** A table as JSON. */
public final class TableJson {
    private final String place;

    private TableJson(String place) {
        this.place = place;
    }

    /** Returns a table as a tree. */
    public static Map<String, Object> write(Table table) {
        Map<String, Object> node = new LinkedHashMap<>();
        node.put("name", table.name());
        node.put("sqlSchema", table.sqlSchema());
        node.put("sqlName", table.sqlName());
        node.put("columns", table.columns().stream().map(TableJson::column).toList());
        table.primaryKey().ifPresent(key -> node.put("primaryKey", unique(key)));
        node.put("uniques", table.uniques().stream().map(TableJson::unique).toList());
        node.put(
                "references",
                table.references().stream().map(TableJson::reference).toList());
        node.put(
                "checks",
                table.checks().stream()
                        .map(check -> named("name", check.name(), "text", check.text()))
                        .toList());
        node.put("form", table.nature().form().name());
        table.nature().parent().ifPresent(parent -> node.put("parent", parent));
        node.put("triggers", table.nature().triggers());
        return node;
    }

    /** Returns names and values, in this order. */
    private static Map<String, Object> named(Object... namesAndValues) {
        Map<String, Object> node = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            node.put((String) namesAndValues[i], namesAndValues[i + 1]);
        }
        return node;
    }

    private static Map<String, Object> column(Column column) {
        Map<String, Object> node = named(
                "name",
                column.name(),
                "sqlName",
                column.sqlName(),
                "type",
                type(column.type()),
                "nullable",
                column.nullable());
        column.defaultText().ifPresent(text -> node.put("default", text));
        node.put("generation", column.generation().name());
        column.sequence().ifPresent(sequence -> node.put("sequence", sequence));
        return node;
    }

    private static Map<String, Object> reference(Reference reference) {
        return named(
                "name", reference.name(),
                "columns", reference.columns(),
                "target", reference.target(),
                "targetColumns", reference.targetColumns(),
                "onDelete", reference.onDelete().name(),
                "onUpdate", reference.onUpdate().name(),
                "match", reference.match().name(),
                "deferral", reference.deferral().name());
    }

    private static Map<String, Object> type(DataType type) {
        Map<String, Object> node = named(
                "kind", type.kind().name(),
                "sqlName", type.sqlName(),
                "length", type.length(),
                "precision", type.precision(),
                "scale", type.scale(),
                "unsigned", type.unsigned(),
                "labels", type.labels());
        type.element().ifPresent(element -> node.put("element", type(element)));
        return node;
    }

    private static Map<String, Object> unique(UniqueKey key) {
        Map<String, Object> node =
                named("name", key.name(), "columns", key.columns(), "expressions", key.expressions());
        key.condition().ifPresent(condition -> node.put("condition", condition));
        if (!key.nullsDistinct()) {
            node.put("nullsDistinct", false);
        }
        return node;
    }

    /** Reads what {@link #write} wrote. */
    public static Table read(@Nullable Object node, String file) {
        TableJson reader =
                new TableJson(file + ", table " + (at(node, "name") instanceof String name ? name : "without a name"));
        return new Table(
                reader.text(node, "name"),
                reader.text(node, "sqlSchema"),
                reader.text(node, "sqlName"),
                reader.list(node, "columns", reader::column),
                Optional.ofNullable(at(node, "primaryKey")).map(reader::unique),
                reader.list(node, "uniques", reader::unique),
                reader.list(node, "references", reader::reference),
                reader.list(node, "checks", c -> new Check(reader.text(c, "name"), reader.text(c, "text"))),
                new TableNature(
                        reader.constant(node, "form", TableNature.Form.class),
                        optional(node, "parent"),
                        reader.list(node, "triggers", String::valueOf)));
    }

    private Column column(@Nullable Object node) {
        return new Column(
                text(node, "name"),
                text(node, "sqlName"),
                type(at(node, "type")),
                isSaid(node, "nullable", false),
                optional(node, "default"),
                constant(node, "generation", Generation.class),
                optional(node, "sequence"));
    }

    private DataType type(@Nullable Object node) {
        return new DataType(
                constant(node, "kind", Kind.class),
                text(node, "sqlName"),
                number(node, "length", DataType.UNLIMITED),
                number(node, "precision", DataType.UNLIMITED),
                number(node, "scale", 0),
                isSaid(node, "unsigned", false),
                list(node, "labels", String::valueOf),
                Optional.ofNullable(at(node, "element")).map(this::type));
    }

    private UniqueKey unique(@Nullable Object node) {
        return new UniqueKey(
                text(node, "name"),
                list(node, "columns", String::valueOf),
                list(node, "expressions", String::valueOf),
                optional(node, "condition"),
                isSaid(node, "nullsDistinct", true));
    }

    private Reference reference(@Nullable Object node) {
        return new Reference(
                text(node, "name"),
                list(node, "columns", String::valueOf),
                text(node, "target"),
                list(node, "targetColumns", String::valueOf),
                constant(node, "onDelete", Reference.Action.class),
                constant(node, "onUpdate", Reference.Action.class),
                constant(node, "match", Reference.Match.class),
                constant(node, "deferral", Reference.Deferral.class));
    }

    private static @Nullable Object at(@Nullable Object node, String field) {
        return node instanceof Map<?, ?> map ? map.get(field) : null;
    }

    private static boolean isSaid(@Nullable Object node, String field, boolean otherwise) {
        return at(node, field) instanceof Boolean truth ? truth : otherwise;
    }

    private static int number(@Nullable Object node, String field, int otherwise) {
        return at(node, field) instanceof Number number ? number.intValue() : otherwise;
    }

    private String text(@Nullable Object node, String field) {
        if (at(node, field) instanceof String text) {
            return text;
        }
        throw new ZabbetException(place + ": \"" + field + "\" is missing or no text.");
    }

    private static Optional<String> optional(@Nullable Object node, String field) {
        return Optional.ofNullable(at(node, field)).map(String::valueOf);
    }

    private <E extends Enum<E>> E constant(@Nullable Object node, String field, Class<E> type) {
        String name = text(node, field);
        List<String> known =
                Arrays.stream(type.getEnumConstants()).map(Enum::name).toList();
        if (!known.contains(name)) {
            throw new UnknownNameException("\"" + field + "\" in " + place, name, known);
        }
        return Enum.valueOf(type, name);
    }

    private <E> List<E> list(@Nullable Object node, String field, Function<Object, E> read) {
        if (!(at(node, field) instanceof List<?> elements)) {
            throw new ZabbetException(place + ": \"" + field + "\" is missing or no list.");
        }
        List<E> all = new ArrayList<>();
        elements.forEach(element -> all.add(read.apply(Objects.requireNonNull(element, field))));
        return List.copyOf(all);
    }
}
