package dev.zabbet.internal.plan.document;

import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaEvaluation;
import dev.zabbet.internal.jsonschema.SchemaProblem;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * Finds documents each of which breaks one keyword of a schema at one place, and nothing else: a valid document is changed at one place
 * after another, and what breaks exactly one thing is kept.
 */
public final class DocumentFlaws {
    private static final List<String> ODD_TEXTS = List.of("~", "?!", "no such value", "", "2031-02-30");

    private final JsonSchema schema;
    private final @Nullable Object valid;
    private final boolean formats;
    private final Map<String, Flaw> found = new LinkedHashMap<>();

    /**
     * A document with one flaw.
     *
     * @param problem what is broken
     * @param document the whole document
     */
    public record Flaw(SchemaProblem problem, @Nullable Object document) {}

    /**
     * Makes a search.
     *
     * @param valid a document that the schema allows
     * @param formats whether texts that only miss their format are wanted too
     */
    public DocumentFlaws(JsonSchema schema, @Nullable Object valid, boolean formats) {
        this.schema = schema;
        this.valid = valid;
        this.formats = formats;
    }

    /** Returns the flaws, one for each keyword that can be broken alone. */
    public List<Flaw> all() {
        at(DocumentPath.WHOLE, valid);
        return List.copyOf(found.values());
    }

    private void at(DocumentPath path, @Nullable Object value) {
        others(value, other -> attempt(path, other));
        if (value instanceof Map<?, ?> map) {
            map.keySet().forEach(name -> {
                removed(path.name((String) name));
                at(path.name((String) name), map.get(name));
            });
        } else if (value instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                at(path.at(i), list.get(i));
            }
        }
    }

    private void removed(DocumentPath path) {
        keep(DocumentPlaces.without(valid, path));
    }

    private void attempt(DocumentPath path, @Nullable Object other) {
        keep(DocumentPlaces.with(valid, path, other));
    }

    private void keep(@Nullable Object document) {
        List<SchemaProblem> problems = SchemaEvaluation.problems(schema, document, formats);
        if (problems.size() == 1) {
            SchemaProblem problem = problems.get(0);
            boolean missing =
                    problem.keyword().equals("required"); // each name that has to be there is a flaw of its own
            List<Object> steps = problem.at().steps();
            String name = missing ? " " + steps.get(steps.size() - 1) : "";
            found.putIfAbsent(problem.place() + name, new Flaw(problem, document));
        }
    }

    /** Proposes other values in the place of one. */
    private static void others(@Nullable Object value, Consumer<@Nullable Object> proposed) {
        if (value instanceof String text) {
            ofText(text, proposed);
        } else if (value instanceof BigDecimal number) {
            ofNumber(number, proposed);
        } else if (value instanceof Map<?, ?> map) {
            ofObject(map, proposed);
        } else if (value instanceof List<?> list) {
            ofList(list, proposed);
        }
        for (Object other : List.of("text", BigDecimal.valueOf(7), new BigDecimal("7.5"), true, Map.of(), List.of())) {
            proposed.accept(other);
        }
        proposed.accept(null);
    }

    private static void ofText(String text, Consumer<@Nullable Object> proposed) {
        ODD_TEXTS.forEach(proposed);
        for (int length = Math.min(text.length() - 1, 60); length >= 0; length--) {
            proposed.accept(text.substring(0, length));
        }
        for (int more : List.of(1, 2, 4, 8, 16, 64, 256, 1024)) {
            proposed.accept(text + (text.isEmpty() ? "x" : text.substring(text.length() - 1)).repeat(more));
        }
    }

    private static void ofNumber(BigDecimal number, Consumer<@Nullable Object> proposed) {
        for (BigDecimal step = BigDecimal.ONE; step.precision() - step.scale() < 9; step = step.movePointRight(1)) {
            proposed.accept(number.add(step));
            proposed.accept(number.subtract(step));
            proposed.accept(number.multiply(step.add(BigDecimal.ONE)));
            proposed.accept(number.negate().subtract(step));
        }
        for (String step : List.of("0.5", "0.25", "0.001", "0.0000001")) {
            proposed.accept(number.add(new BigDecimal(step)));
        }
    }

    private static void ofObject(Map<?, ?> map, Consumer<@Nullable Object> proposed) {
        Map<String, @Nullable Object> more = new LinkedHashMap<>();
        map.forEach((name, part) -> more.put((String) name, part));
        for (int i = 0; i < 12; i++) {
            more.put(i == 0 ? "unexpected" : "unexpected" + i, "text");
            proposed.accept(new LinkedHashMap<>(more));
        }
        Map<String, @Nullable Object> odd = new LinkedHashMap<>();
        map.forEach((name, part) -> odd.put((String) name, part));
        odd.put("~", "text");
        proposed.accept(odd);
        List<Object> names = new ArrayList<>(map.keySet());
        for (int kept = names.size() - 2; kept >= 0; kept--) {
            Map<String, @Nullable Object> fewer = new LinkedHashMap<>();
            names.subList(0, kept).forEach(name -> fewer.put((String) name, map.get(name)));
            proposed.accept(fewer);
        }
    }

    private static void ofList(List<?> list, Consumer<@Nullable Object> proposed) {
        for (int kept = list.size() - 1; kept >= 0; kept--) {
            proposed.accept(List.copyOf(new ArrayList<@Nullable Object>(list.subList(0, kept))));
        }
        if (list.isEmpty()) {
            return;
        }
        Object last = list.get(list.size() - 1);
        List<@Nullable Object> more = new ArrayList<>(list);
        for (int i = 0; i < 12; i++) {
            more.add(last);
            proposed.accept(new ArrayList<>(more));
        }
        distinctMore(list).ifPresent(proposed);
    }

    /** A list that is longer without saying anything twice: a number counts on, a text grows. */
    private static Optional<List<@Nullable Object>> distinctMore(List<?> list) {
        List<@Nullable Object> more = new ArrayList<>(list);
        Object last = list.get(list.size() - 1);
        for (int i = 1; i <= 12; i++) {
            if (last instanceof String text) {
                more.add(text + i);
            } else if (last instanceof BigDecimal number) {
                more.add(number.add(BigDecimal.valueOf(i)));
            } else {
                return Optional.empty();
            }
        }
        return Optional.of(more);
    }
}
