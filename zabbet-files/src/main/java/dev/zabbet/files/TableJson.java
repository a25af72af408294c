package dev.zabbet.files;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.DataType;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** A table as JSON. */
final class TableJson {
    private final String place;

    private TableJson(String place) {
        this.place = place;
    }

    static ObjectNode write(ObjectMapper json, Table table) {
        ObjectNode node = json.createObjectNode();
        node.put("name", table.name()).put("sqlSchema", table.sqlSchema()).put("sqlName", table.sqlName());
        ArrayNode columns = node.putArray("columns");
        for (Column column : table.columns()) {
            ObjectNode c = columns.addObject();
            c.put("name", column.name()).put("sqlName", column.sqlName());
            type(c.putObject("type"), column.type());
            c.put("nullable", column.nullable());
            column.defaultText().ifPresent(d -> c.put("default", d));
            c.put("generation", column.generation().name());
            column.sequence().ifPresent(s -> c.put("sequence", s));
        }
        table.primaryKey().ifPresent(key -> unique(node.putObject("primaryKey"), key));
        ArrayNode uniques = node.putArray("uniques");
        table.uniques().forEach(key -> unique(uniques.addObject(), key));
        ArrayNode references = node.putArray("references");
        for (Reference r : table.references()) {
            ObjectNode reference = references.addObject();
            reference.put("name", r.name());
            names(reference.putArray("columns"), r.columns());
            reference.put("target", r.target());
            names(reference.putArray("targetColumns"), r.targetColumns());
            reference
                    .put("onDelete", r.onDelete().name())
                    .put("onUpdate", r.onUpdate().name());
            reference
                    .put("match", r.match().name())
                    .put("deferral", r.deferral().name());
        }
        ArrayNode checks = node.putArray("checks");
        table.checks()
                .forEach(check -> checks.addObject().put("name", check.name()).put("text", check.text()));
        node.put("form", table.nature().form().name());
        table.nature().parent().ifPresent(parent -> node.put("parent", parent));
        names(node.putArray("triggers"), table.nature().triggers());
        return node;
    }

    private static void type(ObjectNode node, DataType type) {
        node.put("kind", type.kind().name()).put("sqlName", type.sqlName()).put("length", type.length());
        node.put("precision", type.precision()).put("scale", type.scale()).put("unsigned", type.unsigned());
        names(node.putArray("labels"), type.labels());
        type.element().ifPresent(element -> type(node.putObject("element"), element));
    }

    private static void unique(ObjectNode node, UniqueKey key) {
        node.put("name", key.name());
        names(node.putArray("columns"), key.columns());
        names(node.putArray("expressions"), key.expressions());
        key.condition().ifPresent(condition -> node.put("condition", condition));
        if (!key.nullsDistinct()) {
            node.put("nullsDistinct", false);
        }
    }

    private static void names(ArrayNode node, List<String> names) {
        names.forEach(node::add);
    }

    static Table read(JsonNode node, String file) {
        TableJson reader = new TableJson(file + ", table " + node.path("name").asText("without a name"));
        return new Table(
                reader.text(node, "name"),
                reader.text(node, "sqlSchema"),
                reader.text(node, "sqlName"),
                reader.list(node, "columns", reader::column),
                node.has("primaryKey") ? Optional.of(reader.unique(node.path("primaryKey"))) : Optional.empty(),
                reader.list(node, "uniques", reader::unique),
                reader.list(node, "references", reader::reference),
                reader.list(node, "checks", c -> new Check(reader.text(c, "name"), reader.text(c, "text"))),
                new TableNature(
                        reader.constant(node, "form", TableNature.Form.class),
                        optional(node, "parent"),
                        reader.list(node, "triggers", JsonNode::asText)));
    }

    private Column column(JsonNode node) {
        return new Column(
                text(node, "name"),
                text(node, "sqlName"),
                type(node.path("type")),
                node.path("nullable").asBoolean(),
                optional(node, "default"),
                constant(node, "generation", Generation.class),
                optional(node, "sequence"));
    }

    private DataType type(JsonNode node) {
        return new DataType(
                constant(node, "kind", Kind.class),
                text(node, "sqlName"),
                node.path("length").asInt(DataType.UNLIMITED),
                node.path("precision").asInt(DataType.UNLIMITED),
                node.path("scale").asInt(),
                node.path("unsigned").asBoolean(),
                list(node, "labels", JsonNode::asText),
                node.has("element") ? Optional.of(type(node.path("element"))) : Optional.empty());
    }

    private UniqueKey unique(JsonNode node) {
        return new UniqueKey(
                text(node, "name"),
                list(node, "columns", JsonNode::asText),
                list(node, "expressions", JsonNode::asText),
                optional(node, "condition"),
                node.path("nullsDistinct").asBoolean(true));
    }

    private Reference reference(JsonNode node) {
        return new Reference(
                text(node, "name"),
                list(node, "columns", JsonNode::asText),
                text(node, "target"),
                list(node, "targetColumns", JsonNode::asText),
                constant(node, "onDelete", Reference.Action.class),
                constant(node, "onUpdate", Reference.Action.class),
                constant(node, "match", Reference.Match.class),
                constant(node, "deferral", Reference.Deferral.class));
    }

    private String text(JsonNode node, String field) {
        if (!node.path(field).isTextual()) {
            throw new ZabbetException(place + ": \"" + field + "\" is missing or no text.");
        }
        return node.path(field).asText();
    }

    private static Optional<String> optional(JsonNode node, String field) {
        return node.hasNonNull(field) ? Optional.of(node.path(field).asText()) : Optional.empty();
    }

    private <E extends Enum<E>> E constant(JsonNode node, String field, Class<E> type) {
        String name = text(node, field);
        List<String> known =
                Arrays.stream(type.getEnumConstants()).map(Enum::name).toList();
        if (!known.contains(name)) {
            throw new UnknownNameException("\"" + field + "\" in " + place, name, known);
        }
        return Enum.valueOf(type, name);
    }

    private <E> List<E> list(JsonNode node, String field, Function<JsonNode, E> read) {
        if (!node.path(field).isArray()) {
            throw new ZabbetException(place + ": \"" + field + "\" is missing or no list.");
        }
        List<E> all = new ArrayList<>();
        node.path(field).forEach(element -> all.add(read.apply(element)));
        return List.copyOf(all);
    }
}
