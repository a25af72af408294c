package dev.zabbet.internal.jsonschema;

import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.value.Json;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Checks a value against a schema, keyword by keyword. A keyword that combines schemas, {@code anyOf} for example, counts as one: what is
 * broken inside of its branches is not reported.
 *
 * <p>Values are what {@link Json} reads.
 */
public final class SchemaEvaluation {
    private static final int DEEPEST = 400;

    private final JsonSchema schema;
    private final boolean formats;

    /** What of a value some keyword has looked at, for the {@code unevaluated} keywords. */
    private static final class Seen {
        final Set<String> names = new HashSet<>();
        final Set<Integer> positions = new HashSet<>();

        void add(Seen other) {
            names.addAll(other.names);
            positions.addAll(other.positions);
        }
    }

    private SchemaEvaluation(JsonSchema schema, boolean formats) {
        this.schema = schema;
        this.formats = formats;
    }

    /**
     * Returns what a value breaks; nothing if it is allowed.
     *
     * @param formats whether what a text looks like has to hold, which by the draft is only a description
     */
    public static List<SchemaProblem> problems(JsonSchema schema, @Nullable Object value, boolean formats) {
        return new SchemaEvaluation(schema, formats).of(schema.root(), value);
    }

    /** Returns what a value breaks of one of the schemas inside. */
    public static List<SchemaProblem> problems(
            JsonSchema schema, SchemaNode node, @Nullable Object value, boolean formats) {
        return new SchemaEvaluation(schema, formats).of(node, value);
    }

    private List<SchemaProblem> of(SchemaNode node, @Nullable Object value) {
        List<SchemaProblem> problems = new ArrayList<>();
        new At(node, value, DocumentPath.WHOLE, problems, 0).check();
        return problems;
    }

    /** One schema at one place of the value. */
    private final class At {
        private final SchemaNode node;
        private final @Nullable Object value;
        private final DocumentPath path;
        private final List<SchemaProblem> problems;
        private final int depth;
        private final Seen seen = new Seen();

        At(SchemaNode node, @Nullable Object value, DocumentPath path, List<SchemaProblem> problems, int depth) {
            this.node = node;
            this.value = value;
            this.path = path;
            this.problems = problems;
            this.depth = depth;
        }

        Seen check() {
            if (depth > DEEPEST) {
                throw new IllegalStateException(schema.name() + " refers to itself without end at #" + node.place());
            }
            if (node.isNever()) {
                int end = node.place().lastIndexOf('/');
                problem(node.place().substring(end + 1));
            }
            if (node.keywords().isEmpty()) {
                return seen;
            }
            node.text("$ref").ifPresent(reference -> seen.add(same(schema.target(node, reference), problems)));
            ofAnyType();
            combined();
            if (value instanceof String text) {
                ofText(text);
            } else if (value instanceof BigDecimal number) {
                ofNumber(number);
            } else if (value instanceof Map<?, ?> map) {
                ofObject(map);
            } else if (value instanceof List<?> list) {
                ofList(list);
            }
            return seen;
        }

        private void problem(String keyword) {
            String place = node.raw() instanceof Boolean ? node.place() : node.place() + "/" + keyword;
            problems.add(new SchemaProblem(path, keyword, place));
        }

        private void require(boolean holds, String keyword) {
            if (!holds) {
                problem(keyword);
            }
        }

        /** Returns what another schema of the same value looked at: nothing if that is broken (core specification, section 7.7.1.1). */
        private Seen same(SchemaNode other, List<SchemaProblem> into) {
            int before = into.size();
            Seen looked = new At(other, value, path, into, depth + 1).check();
            return into.size() == before ? looked : new Seen();
        }

        /** Returns what a branch looked at; null if the value breaks it. */
        private @Nullable Seen branch(SchemaNode other) {
            List<SchemaProblem> broken = new ArrayList<>();
            Seen looked = same(other, broken);
            return broken.isEmpty() ? looked : null;
        }

        private boolean below(SchemaNode other, @Nullable Object part, DocumentPath at, List<SchemaProblem> into) {
            int before = into.size();
            new At(other, part, at, into, depth + 1).check();
            return into.size() == before;
        }

        private void ofAnyType() {
            if (node.has("type")) {
                Object type = node.value("type");
                List<?> types = type instanceof List<?> list ? list : List.of(String.valueOf(type));
                require(types.stream().anyMatch(one -> isOf(String.valueOf(one), value)), "type");
            }
            if (node.value("enum") instanceof List<?> list) {
                require(list.stream().anyMatch(one -> Json.same(one, value)), "enum");
            }
            if (node.has("const")) {
                require(Json.same(node.value("const"), value), "const");
            }
        }

        private void combined() {
            node.schemas("allOf").forEach(other -> seen.add(same(other, problems)));
            if (node.has("anyOf")) {
                List<Seen> held = held("anyOf");
                require(!held.isEmpty(), "anyOf");
                held.forEach(seen::add);
            }
            if (node.has("oneOf")) {
                List<Seen> held = held("oneOf");
                require(held.size() == 1, "oneOf");
                held.forEach(seen::add);
            }
            node.schema("not").ifPresent(other -> require(branch(other) == null, "not"));
            node.schema("if").ifPresent(condition -> {
                Seen met = branch(condition);
                if (met != null) {
                    seen.add(met);
                }
                node.schema(met == null ? "else" : "then").ifPresent(other -> seen.add(same(other, problems)));
            });
        }

        private List<Seen> held(String keyword) {
            List<Seen> held = new ArrayList<>();
            for (SchemaNode other : node.schemas(keyword)) {
                Seen looked = branch(other);
                if (looked != null) {
                    held.add(looked);
                }
            }
            return held;
        }

        private void ofText(String text) {
            int length = text.codePointCount(0, text.length());
            node.number("minLength").ifPresent(least -> require(length >= least.intValue(), "minLength"));
            node.number("maxLength").ifPresent(most -> require(length <= most.intValue(), "maxLength"));
            node.text("pattern")
                    .ifPresent(pattern ->
                            require(schema.pattern(pattern).matcher(text).find(), "pattern"));
            if (formats) {
                node.text("format").ifPresent(format -> require(Formats.holds(format, text), "format"));
            }
        }

        private void ofNumber(BigDecimal number) {
            node.number("minimum").ifPresent(bound -> require(number.compareTo(bound) >= 0, "minimum"));
            node.number("maximum").ifPresent(bound -> require(number.compareTo(bound) <= 0, "maximum"));
            node.number("exclusiveMinimum")
                    .ifPresent(bound -> require(number.compareTo(bound) > 0, "exclusiveMinimum"));
            node.number("exclusiveMaximum")
                    .ifPresent(bound -> require(number.compareTo(bound) < 0, "exclusiveMaximum"));
            node.number("multipleOf")
                    .ifPresent(step -> require(number.remainder(step).signum() == 0, "multipleOf"));
        }

        private void ofObject(Map<?, ?> map) {
            node.number("minProperties").ifPresent(least -> require(map.size() >= least.intValue(), "minProperties"));
            node.number("maxProperties").ifPresent(most -> require(map.size() <= most.intValue(), "maxProperties"));
            for (String name : node.texts("required")) {
                if (!map.containsKey(name)) {
                    problems.add(new SchemaProblem(path.name(name), "required", node.place() + "/required"));
                }
            }
            if (node.value("dependentRequired") instanceof Map<?, ?> dependent) {
                require(
                        dependent.entrySet().stream()
                                .allMatch(entry -> !map.containsKey(entry.getKey())
                                        || (entry.getValue() instanceof List<?> names
                                                && map.keySet().containsAll(names))),
                        "dependentRequired");
            }
            node.named("dependentSchemas").forEach((name, other) -> {
                if (map.containsKey(name)) {
                    seen.add(same(other, problems));
                }
            });
            node.schema("propertyNames").ifPresent(names -> {
                List<SchemaProblem> broken = new ArrayList<>();
                map.keySet().forEach(name -> below(names, name, path, broken));
                require(broken.isEmpty(), "propertyNames");
            });
            properties(map);
            node.schema("unevaluatedProperties")
                    .ifPresent(other -> map.forEach((name, part) -> {
                        if (seen.names.add((String) name)) {
                            below(other, part, path.name((String) name), problems);
                        }
                    }));
        }

        private void properties(Map<?, ?> map) {
            Set<String> own = new HashSet<>();
            node.named("properties").forEach((name, other) -> {
                if (map.containsKey(name)) {
                    own.add(name);
                    below(other, map.get(name), path.name(name), problems);
                }
            });
            node.named("patternProperties")
                    .forEach((pattern, other) -> map.forEach((name, part) -> {
                        if (schema.pattern(pattern).matcher((String) name).find()) {
                            own.add((String) name);
                            below(other, part, path.name((String) name), problems);
                        }
                    }));
            node.schema("additionalProperties")
                    .ifPresent(other -> map.forEach((name, part) -> {
                        if (own.add((String) name)) {
                            below(other, part, path.name((String) name), problems);
                        }
                    }));
            seen.names.addAll(own);
        }

        private void ofList(List<?> list) {
            node.number("minItems").ifPresent(least -> require(list.size() >= least.intValue(), "minItems"));
            node.number("maxItems").ifPresent(most -> require(list.size() <= most.intValue(), "maxItems"));
            if (node.isTrue("uniqueItems")) {
                require(isDistinct(list), "uniqueItems");
            }
            List<SchemaNode> first = node.schemas("prefixItems");
            for (int i = 0; i < Math.min(first.size(), list.size()); i++) {
                below(first.get(i), list.get(i), path.at(i), problems);
                seen.positions.add(i);
            }
            node.schema("items").ifPresent(other -> {
                for (int i = first.size(); i < list.size(); i++) {
                    below(other, list.get(i), path.at(i), problems);
                    seen.positions.add(i);
                }
            });
            node.schema("contains").ifPresent(other -> contains(list, other));
            node.schema("unevaluatedItems").ifPresent(other -> {
                for (int i = 0; i < list.size(); i++) {
                    if (seen.positions.add(i)) {
                        below(other, list.get(i), path.at(i), problems);
                    }
                }
            });
        }

        private void contains(List<?> list, SchemaNode other) {
            int found = 0;
            for (int i = 0; i < list.size(); i++) {
                if (below(other, list.get(i), path.at(i), new ArrayList<>())) {
                    found++;
                    seen.positions.add(i);
                }
            }
            int least = node.number("minContains").map(BigDecimal::intValue).orElse(1);
            require(found >= least, node.has("minContains") ? "minContains" : "contains");
            int most = node.number("maxContains").map(BigDecimal::intValue).orElse(Integer.MAX_VALUE);
            require(found <= most, "maxContains");
        }
    }

    private static boolean isDistinct(List<?> list) {
        for (int i = 0; i < list.size(); i++) {
            for (int k = i + 1; k < list.size(); k++) {
                if (Json.same(list.get(i), list.get(k))) {
                    return false;
                }
            }
        }
        return true;
    }

    /** Tells whether a value is of a type by the draft's name. */
    public static boolean isOf(String type, @Nullable Object value) {
        return switch (type) {
            case "null" -> value == null;
            case "boolean" -> value instanceof Boolean;
            case "object" -> value instanceof Map;
            case "array" -> value instanceof List;
            case "number" -> value instanceof BigDecimal;
            case "integer" ->
                value instanceof BigDecimal number
                        && number.stripTrailingZeros().scale() <= 0;
            default -> value instanceof String;
        };
    }
}
