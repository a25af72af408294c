package dev.zabbet.internal.plan.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaEvaluation;
import dev.zabbet.internal.jsonschema.SchemaNode;
import dev.zabbet.internal.jsonschema.SchemaProblem;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.SplitMix;
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
 * Makes documents that a JSON Schema allows. Each value is a pure function of a state, its place and the row's ordinal, so that a field
 * that is added to the schema changes no other. What was made is checked; what does not fit is made anew with other draws.
 */
public final class DocumentMaker {
    private static final int MOST_ATTEMPTS = 120;
    private static final int DEEPEST = 24;
    private static final int RICH = 5; // levels down to which optional parts are filled
    private static final int MOST_DIFFERENT = 40;

    private final JsonSchema schema;
    private final String owner;
    private final boolean filled;

    /**
     * Makes a maker.
     *
     * @param owner what the documents belong to, by whose name fitting texts are chosen
     * @param filled whether fields are made too that need not be there
     */
    public DocumentMaker(JsonSchema schema, String owner, boolean filled) {
        this.schema = schema;
        this.owner = owner;
        this.filled = filled;
    }

    /**
     * Makes a document.
     *
     * @throws ZabbetException if none was found that the schema allows
     */
    public @Nullable Object make(Values values) {
        long state = values.draw();
        SchemaProblem last = null;
        for (int attempt = 0; attempt < MOST_ATTEMPTS; attempt++) {
            try {
                Object made = new Making(attempt == 0 ? state : SplitMix.mix(state + attempt), attempt, values).make();
                List<SchemaProblem> problems = SchemaEvaluation.problems(schema, made, true);
                if (problems.isEmpty()) {
                    return made;
                }
                last = problems.get(0);
            } catch (NothingFitsException e) {
                last = e.problem;
            }
        }
        SchemaProblem problem = java.util.Objects.requireNonNull(last);
        throw new ZabbetException("No document was found that the JSON Schema " + schema.name() + " allows: after "
                + MOST_ATTEMPTS + " attempts " + problem.keyword() + " at #" + problem.place()
                + " still did not hold. Say what stands there, or allow more.");
    }

    /** No value was found for one place. */
    private static final class NothingFitsException extends RuntimeException {
        private static final long serialVersionUID = 1L;
        private final transient SchemaProblem problem;

        NothingFitsException(SchemaProblem problem) {
            super(problem.keyword(), null, false, false);
            this.problem = problem;
        }
    }

    /** One attempt. */
    private final class Making {
        private final long state;
        private final int attempt;
        private final Values row;

        Making(long state, int attempt, Values row) {
            this.state = state;
            this.attempt = attempt;
            this.row = row;
        }

        @Nullable
        Object make() {
            return value(List.of(schema.root()), DocumentPath.WHOLE, owner, owner, 0, 0);
        }

        private Values draws(DocumentPath path, int again) {
            long name = SplitMix.name(owner, path.toString());
            return new Draws(
                    SplitMix.of(state + again, name, row.ordinal()),
                    row.ordinal(),
                    row.clock(),
                    Object.class,
                    c -> null);
        }

        private @Nullable Object value(
                List<SchemaNode> together, DocumentPath path, String holder, String name, int depth, int again) {
            Values draws = draws(path, again);
            MergedSchema merged = new MergedSchema(schema, together, draws);
            if (depth > DEEPEST || merged.nodes().stream().anyMatch(SchemaNode::isNever)) {
                throw new NothingFitsException(new SchemaProblem(
                        path,
                        depth > DEEPEST ? "$ref" : "false",
                        merged.nodes().iterator().next().place()));
            }
            Optional<List<@Nullable Object>> listed = merged.listed();
            if (listed.isPresent()) {
                List<@Nullable Object> fitting = listed.get().stream()
                        .filter(value -> merged.nodes().stream()
                                .allMatch(node -> SchemaEvaluation.problems(schema, node, value, true)
                                        .isEmpty()))
                        .toList();
                if (fitting.isEmpty()) {
                    throw nothing(merged, path, "enum");
                }
                return fitting.get(draws.between(0, fitting.size() - 1));
            }
            List<String> types = merged.types();
            if (types.isEmpty()) {
                throw nothing(merged, path, "type");
            }
            return switch (type(types, merged, draws)) {
                case "object" -> object(merged, path, name, depth);
                case "array" -> array(merged, path, holder, name, depth);
                case "string" -> new TextValue(schema, merged, holder, name).make(draws);
                case "integer" -> number(merged, path, draws, true);
                case "number" -> number(merged, path, draws, false);
                case "boolean" -> draws.oneIn(2);
                default -> null;
            };
        }

        private NothingFitsException nothing(MergedSchema merged, DocumentPath path, String keyword) {
            String place = merged.nodes().stream()
                    .filter(node -> node.has(keyword))
                    .findFirst()
                    .map(SchemaNode::place)
                    .orElse("");
            return new NothingFitsException(new SchemaProblem(path, keyword, place + "/" + keyword));
        }

        /** Picks the type that the other keywords speak of; where several would do, the first, and others when that has failed. */
        private String type(List<String> types, MergedSchema merged, Values draws) {
            if (attempt > 3 && types.size() > 1) {
                return draws.pick(types);
            }
            List<String> spoken = new ArrayList<>();
            if (merged.has(
                    "properties",
                    "required",
                    "patternProperties",
                    "minProperties",
                    "additionalProperties",
                    "propertyNames")) {
                spoken.add("object");
            }
            if (merged.has("items", "prefixItems", "contains", "minItems", "uniqueItems")) {
                spoken.add("array");
            }
            if (merged.has("pattern", "format", "minLength", "maxLength")) {
                spoken.add("string");
            }
            if (merged.has("minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf")) {
                spoken.add(types.contains("number") ? "number" : "integer");
            }
            spoken.retainAll(types);
            return spoken.isEmpty() ? types.get(0) : spoken.get(0);
        }

        private Object object(MergedSchema merged, DocumentPath path, String name, int depth) {
            Set<String> names = names(merged, path, depth);
            Map<String, @Nullable Object> made = new LinkedHashMap<>();
            Set<String> required = merged.required(Set.of());
            for (String field : names) {
                try {
                    made.put(field, value(merged.ofProperty(field), path.name(field), name, field, depth + 1, 0));
                } catch (NothingFitsException e) {
                    if (required.contains(field)) {
                        throw e;
                    }
                }
            }
            return made;
        }

        /** Chooses which fields an object has. */
        private Set<String> names(MergedSchema merged, DocumentPath path, int depth) {
            Values draws = draws(path.name("which fields"), 0);
            Set<String> required = merged.required(Set.of());
            Set<String> chosen = new LinkedHashSet<>();
            for (String name : merged.known()) {
                boolean wanted = filled && depth < RICH && (attempt < 4 || draws.oneIn(2));
                if (required.contains(name) || wanted || (attempt > 8 && draws.oneIn(3))) {
                    chosen.add(name);
                }
            }
            chosen.addAll(required);
            int most = merged.least("maxProperties").map(BigDecimal::intValue).orElse(Integer.MAX_VALUE);
            for (String name : List.copyOf(chosen)) {
                boolean kept = required.contains(name)
                        || (chosen.size() <= most
                                && merged.ofProperty(name).stream().noneMatch(SchemaNode::isNever));
                if (!kept) {
                    chosen.remove(name);
                }
            }
            chosen.addAll(merged.required(chosen));
            merged.addDependent(chosen);
            chosen.addAll(merged.required(chosen));
            int least =
                    merged.greatest("minProperties").map(BigDecimal::intValue).orElse(0);
            more(merged, chosen, least, draws);
            return chosen;
        }

        private void more(MergedSchema merged, Set<String> chosen, int least, Values draws) {
            for (String name : merged.known()) {
                if (chosen.size() < least && merged.ofProperty(name).stream().noneMatch(SchemaNode::isNever)) {
                    chosen.add(name);
                }
            }
            for (int i = 1; chosen.size() < least && i <= least + MOST_DIFFERENT; i++) {
                String name = new TextValue(schema, merged, owner, "name").fieldName(draws, i);
                if (merged.ofProperty(name).stream().noneMatch(SchemaNode::isNever)) {
                    chosen.add(name);
                }
            }
        }

        private Object array(MergedSchema merged, DocumentPath path, String holder, String name, int depth) {
            Values draws = draws(path.name("how many"), 0);
            List<SchemaNode> contained = new ArrayList<>(merged.contained());
            int prefix = merged.nodes().stream()
                    .mapToInt(node -> node.schemas("prefixItems").size())
                    .max()
                    .orElse(0);
            int least = Math.max(
                    merged.greatest("minItems").map(BigDecimal::intValue).orElse(0), contained.size());
            int most = merged.least("maxItems").map(BigDecimal::intValue).orElse(Math.max(least, Math.max(prefix, 2)));
            int enough =
                    depth >= RICH || attempt > 20 ? least : Math.max(least, Math.min(prefix == 0 ? 1 : prefix, most));
            int count = enough + (depth >= RICH || most <= enough ? 0 : draws.between(0, Math.min(2, most - enough)));
            boolean different = merged.nodes().stream().anyMatch(node -> node.isTrue("uniqueItems"));
            List<@Nullable Object> made = new ArrayList<>();
            for (int i = 0; i < count; i++) {
                List<SchemaNode> together = new ArrayList<>(merged.ofElement(i));
                boolean last = count - i <= contained.size();
                if (!contained.isEmpty() && (i >= prefix || last)) {
                    together.add(contained.remove(0));
                }
                try {
                    Optional<Element> element =
                            element(together, path.at(i), holder, name, depth, different ? made : List.of());
                    if (element.isEmpty()) {
                        break;
                    }
                    made.add(element.get().value());
                } catch (NothingFitsException e) {
                    if (i < least) {
                        throw e;
                    }
                    break;
                }
            }
            return made;
        }

        private Optional<Element> element(
                List<SchemaNode> together, DocumentPath path, String holder, String name, int depth, List<?> others) {
            for (int again = 0; again < MOST_DIFFERENT; again++) {
                Object value = value(together, path, holder, name, depth + 1, again);
                if (others.stream().noneMatch(other -> Json.same(other, value))) {
                    return Optional.of(new Element(value));
                }
            }
            return Optional.empty();
        }

        private Object number(MergedSchema merged, DocumentPath path, Values draws, boolean whole) {
            return NumberValue.of(merged, whole)
                    .map(range -> range.make(draws))
                    .orElseThrow(() -> nothing(merged, path, merged.has("multipleOf") ? "multipleOf" : "minimum"));
        }
    }

    private record Element(@Nullable Object value) {}
}
