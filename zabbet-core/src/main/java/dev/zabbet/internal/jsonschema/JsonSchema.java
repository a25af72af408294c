package dev.zabbet.internal.jsonschema;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;
import org.jspecify.annotations.Nullable;

/**
 * A JSON Schema of draft 2020-12, with all its definitions: it stands in one document, and references lead nowhere else.
 *
 * <p>What it holds is looked through when it is read: what is not understood is refused by name, never passed over. Keywords that the
 * draft does not know are ignored, as it says. Thread-safe.
 */
public final class JsonSchema {
    private static final String DRAFT = "https://json-schema.org/draft/2020-12/schema";
    private static final String NAMELESS = "https://schema.invalid/";
    private static final Set<String> REFUSED = Set.of("$dynamicRef", "$recursiveRef", "$vocabulary");
    private static final List<String> ONE = List.of(
            "items",
            "additionalProperties",
            "not",
            "if",
            "then",
            "else",
            "contains",
            "propertyNames",
            "unevaluatedItems",
            "unevaluatedProperties");
    private static final List<String> SEVERAL = List.of("allOf", "anyOf", "oneOf", "prefixItems");
    private static final List<String> NAMED =
            List.of("$defs", "definitions", "properties", "patternProperties", "dependentSchemas");

    private final String name;
    private final SchemaNode root;
    private final Map<String, SchemaNode> resources = new HashMap<>();
    private final Map<String, SchemaNode> anchors = new HashMap<>();
    private final Map<String, Pattern> patterns = new HashMap<>();
    private final Set<String> places = new HashSet<>();

    private JsonSchema(String name, Object raw) {
        this.name = name;
        this.root = new SchemaNode(raw, JsonPointer.resource(raw, NAMELESS), "");
        resources.put(NAMELESS, root);
        index(root);
        checkReferences(root);
    }

    /**
     * Reads a schema.
     *
     * @param name what messages call it: a file's name, for example
     * @throws ZabbetException if it is no JSON, no schema of draft 2020-12, or holds what is not understood
     */
    public static JsonSchema read(String text, String name) {
        Object raw = Json.read(text)
                .map(Json.Document::value)
                .orElseThrow(() -> new ZabbetException(name + " is no JSON: " + Text.of(text) + "."));
        if (!(raw instanceof Map) && !(raw instanceof Boolean)) {
            throw new ZabbetException(name + " is no JSON Schema: that is an object, true or false.");
        }
        return new JsonSchema(name, raw);
    }

    public String name() {
        return name;
    }

    public SchemaNode root() {
        return root;
    }

    private void index(SchemaNode node) {
        if (!(node.raw() instanceof Map) && !(node.raw() instanceof Boolean)) {
            throw refused(node, "a schema is an object, true or false");
        }
        places.add(node.place());
        check(node);
        resources.putIfAbsent(node.resource(), node);
        if (node.has("$id")) {
            resources.put(node.resource(), node);
        }
        for (String keyword : List.of("$anchor", "$dynamicAnchor")) {
            node.text(keyword).ifPresent(anchor -> anchors.put(node.resource() + "#" + anchor, node));
        }
        ONE.forEach(keyword -> node.schema(keyword).ifPresent(this::index));
        SEVERAL.forEach(keyword -> node.schemas(keyword).forEach(this::index));
        NAMED.forEach(keyword -> node.named(keyword).values().forEach(this::index));
    }

    private void check(SchemaNode node) {
        for (String keyword : node.keywords().keySet()) {
            if (REFUSED.contains(keyword)) {
                throw refused(node, keyword + " is not understood");
            }
            Object value = node.value(keyword);
            String wanted = KeywordTypes.wanted(keyword, value);
            if (wanted != null) {
                throw refused(node, keyword + " is " + wanted);
            }
        }
        node.text("$schema")
                .filter(draft -> !draft.replace("#", "").equals(DRAFT))
                .ifPresent(draft -> {
                    throw refused(node, "$schema says " + draft + ", and only " + DRAFT + " is understood");
                });
        node.text("pattern").ifPresent(pattern -> pattern(node, pattern));
        node.named("patternProperties").keySet().forEach(pattern -> pattern(node, pattern));
    }

    private void pattern(SchemaNode node, String pattern) {
        try {
            patterns.put(pattern, Pattern.compile(pattern));
        } catch (PatternSyntaxException e) {
            throw refused(node, "the pattern " + pattern + " is not understood");
        }
    }

    /** Returns a regular expression of the schema, to be found anywhere in a text. */
    public Pattern pattern(String pattern) {
        return Objects.requireNonNull(patterns.get(pattern));
    }

    private void checkReferences(SchemaNode node) {
        node.text("$ref").map(reference -> target(node, reference)).ifPresent(target -> {
            if (!places.contains(target.place())) { // below a keyword that the draft does not know
                index(target);
                checkReferences(target);
            }
        });
        ONE.forEach(keyword -> node.schema(keyword).ifPresent(this::checkReferences));
        SEVERAL.forEach(keyword -> node.schemas(keyword).forEach(this::checkReferences));
        NAMED.forEach(keyword -> node.named(keyword).values().forEach(this::checkReferences));
    }

    /**
     * Returns the schema that a reference leads to.
     *
     * @param from the schema that holds {@code $ref}
     */
    public SchemaNode target(SchemaNode from, String reference) {
        String resource = JsonPointer.resolved(reference, from.resource());
        String fragment = reference.contains("#") ? reference.substring(reference.indexOf('#') + 1) : "";
        SchemaNode node = resources.get(resource);
        if (node == null) {
            throw refused(from, "$ref leads to " + reference + ", which is not in the document");
        }
        if (fragment.isEmpty()) {
            return node;
        }
        if (!fragment.startsWith("/")) {
            SchemaNode anchored = anchors.get(resource + "#" + JsonPointer.decoded(fragment));
            if (anchored == null) {
                throw refused(from, "$ref leads to " + reference + ", and nothing is called so");
            }
            return anchored;
        }
        return below(from, node, reference, JsonPointer.steps(fragment));
    }

    private SchemaNode below(SchemaNode from, SchemaNode top, String reference, List<String> steps) {
        Object held = top.raw();
        StringBuilder place = new StringBuilder(top.place());
        String resource = top.resource();
        for (String step : steps) {
            held = step(held, step);
            resource = JsonPointer.resource(held, resource);
            place.append('/').append(JsonPointer.escaped(step));
        }
        if (!(held instanceof Map) && !(held instanceof Boolean)) {
            throw refused(from, "$ref leads to " + reference + ", and no schema stands there");
        }
        return new SchemaNode(held, resource, place.toString());
    }

    private static @Nullable Object step(@Nullable Object held, String step) {
        if (held instanceof List<?> list && step.matches("\\d{1,9}")) {
            int at = Integer.parseInt(step);
            return at < list.size() ? list.get(at) : null;
        }
        return held instanceof Map<?, ?> map ? map.get(step) : null;
    }

    private ZabbetException refused(SchemaNode node, String why) {
        return new ZabbetException(
                "The JSON Schema " + name + " cannot be used, at #" + node.place() + ": " + why + ".");
    }
}
