package dev.zabbet.internal.plan.document;

import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaNode;
import dev.zabbet.internal.value.Json;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * All that holds for one value together: schemas with what they refer to, with all of {@code allOf} and one branch each of {@code anyOf},
 * {@code oneOf} and {@code if}, chosen by draws.
 */
final class MergedSchema {
    private final JsonSchema schema;
    private final Values draws;
    private final Set<SchemaNode> all = new LinkedHashSet<>();

    MergedSchema(JsonSchema schema, List<SchemaNode> together, Values draws) {
        this.schema = schema;
        this.draws = draws;
        together.forEach(this::add);
    }

    private void add(SchemaNode node) {
        if (!all.add(node)) {
            return;
        }
        node.text("$ref").ifPresent(reference -> add(schema.target(node, reference)));
        node.schemas("allOf").forEach(this::add);
        for (String keyword : List.of("anyOf", "oneOf")) {
            List<SchemaNode> branches = node.schemas(keyword).stream()
                    .filter(branch -> !branch.isNever())
                    .toList();
            if (!branches.isEmpty()) {
                add(draws.pick(branches));
            }
        }
        node.schema("if").ifPresent(condition -> {
            if (draws.oneIn(2)) {
                add(condition);
                node.schema("then").ifPresent(this::add);
            } else {
                node.schema("else").ifPresent(this::add);
            }
        });
    }

    /** Adds what holds since the value has properties of these names. */
    void addDependent(Set<String> names) {
        for (SchemaNode node : List.copyOf(all)) {
            node.named("dependentSchemas").forEach((name, other) -> {
                if (names.contains(name)) {
                    add(other);
                }
            });
        }
    }

    Set<SchemaNode> nodes() {
        return all;
    }

    boolean has(String... keywords) {
        return all.stream().anyMatch(node -> {
            for (String keyword : keywords) {
                if (node.has(keyword)) {
                    return true;
                }
            }
            return false;
        });
    }

    /** Returns the values that are listed; empty if none are. */
    Optional<List<@Nullable Object>> listed() {
        List<@Nullable Object> found = null;
        for (SchemaNode node : all) {
            List<@Nullable Object> own = new ArrayList<>();
            if (node.has("const")) {
                own.add(node.value("const"));
            } else if (node.value("enum") instanceof List<?> list) {
                own.addAll(list);
            } else {
                continue;
            }
            List<@Nullable Object> before = found;
            found = before == null
                    ? own
                    : before.stream()
                            .filter(value -> own.stream().anyMatch(other -> Json.same(value, other)))
                            .toList();
        }
        return Optional.ofNullable(found);
    }

    /** Returns the types that all schemas allow, in the order of the first that says something. */
    List<String> types() {
        List<String> types =
                new ArrayList<>(List.of("string", "integer", "number", "boolean", "object", "array", "null"));
        for (SchemaNode node : all) {
            Object said = node.value("type");
            if (said != null) {
                List<String> own = node.texts("type");
                List<String> allowed = own.isEmpty() ? List.of(String.valueOf(said)) : own;
                types.removeIf(
                        type -> !allowed.contains(type) && !(type.equals("integer") && allowed.contains("number")));
            }
        }
        return types;
    }

    /** Returns the greatest of the numbers that a keyword says. */
    Optional<BigDecimal> greatest(String keyword) {
        return all.stream().flatMap(node -> node.number(keyword).stream()).max(BigDecimal::compareTo);
    }

    /** Returns the least of the numbers that a keyword says. */
    Optional<BigDecimal> least(String keyword) {
        return all.stream().flatMap(node -> node.number(keyword).stream()).min(BigDecimal::compareTo);
    }

    List<String> texts(String keyword) {
        return all.stream()
                .flatMap(node -> node.text(keyword).stream())
                .distinct()
                .toList();
    }

    /** Returns the names that an object has to have, those included that others bring along. */
    Set<String> required(Set<String> present) {
        Set<String> names = new LinkedHashSet<>(present);
        all.forEach(node -> names.addAll(node.texts("required")));
        for (int before = -1; before != names.size(); ) {
            before = names.size();
            for (SchemaNode node : all) {
                if (node.value("dependentRequired") instanceof Map<?, ?> dependent) {
                    dependent.forEach((name, others) -> {
                        if (names.contains(name) && others instanceof List<?> list) {
                            list.forEach(other -> names.add(String.valueOf(other)));
                        }
                    });
                }
            }
        }
        return names;
    }

    /** Returns the properties that are described, in their order. */
    Set<String> known() {
        Set<String> names = new LinkedHashSet<>();
        all.forEach(node -> names.addAll(node.named("properties").keySet()));
        return names;
    }

    /** Returns what holds for a property. */
    List<SchemaNode> ofProperty(String name) {
        Map<String, SchemaNode> found = new LinkedHashMap<>();
        boolean described = false;
        for (SchemaNode node : all) {
            boolean own = false;
            SchemaNode named = node.named("properties").get(name);
            if (named != null) {
                own = true;
                found.put(named.place(), named);
            }
            for (Map.Entry<String, SchemaNode> entry :
                    node.named("patternProperties").entrySet()) {
                if (schema.pattern(entry.getKey()).matcher(name).find()) {
                    own = true;
                    found.put(entry.getValue().place(), entry.getValue());
                }
            }
            if (!own && node.schema("additionalProperties").isPresent()) {
                own = true;
                node.schema("additionalProperties").ifPresent(other -> found.put(other.place(), other));
            }
            described |= own;
        }
        if (!described) {
            all.forEach(
                    node -> node.schema("unevaluatedProperties").ifPresent(other -> found.put(other.place(), other)));
        }
        return List.copyOf(found.values());
    }

    /** Returns what holds for an element of a list. */
    List<SchemaNode> ofElement(int position) {
        List<SchemaNode> found = new ArrayList<>();
        boolean described = false;
        for (SchemaNode node : all) {
            List<SchemaNode> first = node.schemas("prefixItems");
            if (position < first.size()) {
                found.add(first.get(position));
                described = true;
            } else if (node.schema("items").isPresent()) {
                node.schema("items").ifPresent(found::add);
                described = true;
            }
        }
        if (!described) {
            all.forEach(node -> node.schema("unevaluatedItems").ifPresent(found::add));
        }
        return found;
    }

    /** Returns the schemas of which some elements are to be, each as often as its {@code minContains} says. */
    List<SchemaNode> contained() {
        List<SchemaNode> found = new ArrayList<>();
        for (SchemaNode node : all) {
            int times = node.number("minContains").map(BigDecimal::intValue).orElse(1);
            for (int i = 0; i < times; i++) {
                node.schema("contains").ifPresent(found::add);
            }
        }
        return found;
    }
}
