package dev.zabbet.serve.internal;

import dev.zabbet.Footprint;
import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.error.UnknownNameException;
import dev.zabbet.expect.Expected;
import dev.zabbet.factory.Bulk;
import dev.zabbet.files.RowDocument;
import dev.zabbet.files.internal.RowSelection;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.serve.internal.StageHandler.Answer;
import dev.zabbet.serve.internal.StageHandler.Asked;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Stream;
import org.eclipse.jetty.util.Fields;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;

/** What can be done with stages by requests. */
final class StageOperations {
    private static final int FIRST = 100;
    private static final int MOST = 10_000;
    private static final Duration AT_MOST = Duration.ofSeconds(5);

    private final ServedStages stages;

    StageOperations(ServedStages stages) {
        this.stages = stages;
    }

    Answer list(Asked asked) {
        List<Map<String, Object>> all = new ArrayList<>();
        for (ServedStage stage : stages.all()) {
            all.add(brief(stage));
        }
        return Answer.of(Map.of("stages", all));
    }

    private static Map<String, Object> brief(ServedStage stage) {
        Map<String, Object> members = new LinkedHashMap<>();
        members.put("id", stage.id());
        members.put("database", stage.database());
        members.put("url", stage.url());
        return members;
    }

    Answer open(Asked asked) {
        Long variation = RequestBody.of(asked.body(), "variation").number("variation");
        ServedStage stage = stages.open(variation == null ? 0 : variation);
        return new Answer(201, whole(stage), "application/json");
    }

    private static Object whole(ServedStage served) {
        return served.call(true, stage -> {
            Map<String, Object> members = brief(served);
            members.put("variation", stage.variation());
            members.put("now", stage.now().toString());
            members.put("acting", served.isActing());
            members.put("points", served.points());
            return members;
        });
    }

    Answer state(Asked asked) {
        return Answer.of(whole(stages.require(asked.stage())));
    }

    Answer set(Asked asked) {
        ServedStage served = stages.require(asked.stage());
        RequestBody body = RequestBody.of(asked.body(), "variation", "advance");
        Long variation = body.number("variation");
        Duration advance = body.duration("advance");
        if (advance != null && advance.isNegative()) {
            throw RequestBody.wrong("The clock never goes back; 'advance' was " + advance + ".");
        }
        if (variation != null) {
            served.setVariation(variation);
        }
        if (advance != null) {
            served.call(false, stage -> {
                stage.advance(advance);
                return advance;
            });
        }
        return Answer.of(whole(served));
    }

    Answer close(Asked asked) {
        stages.require(asked.stage()).close();
        return new Answer(204, null, "");
    }

    Answer load(Asked asked) {
        RowDocument document = document(asked.body());
        boolean namesFiles = document.seed().rows().stream().anyMatch(row -> row.values().columns().stream()
                .anyMatch(column -> row.values().get(column) instanceof SeedValue.InFile));
        if (namesFiles) {
            throw RequestBody.wrong(
                    "A document in a request has no files beside it: write values where {file: …} stands, or use zabbet load.");
        }
        return Answer.of(stages.require(asked.stage()).call(false, stage -> {
            Loaded loaded = stage.load(document.seed());
            Map<String, Object> members = new LinkedHashMap<>();
            members.put("stored", loaded.counts());
            members.put("rows", labelled(loaded));
            members.put(
                    "found",
                    loaded.found().stream()
                            .map(one -> Map.of(
                                    "table",
                                    one.table(),
                                    "label",
                                    one.label(),
                                    "key",
                                    RowsAsJson.of(one.key()),
                                    "differences",
                                    one.differences()))
                            .toList());
            return members;
        }));
    }

    private static RowDocument document(String body) {
        if (body.isBlank()) {
            throw RequestBody.wrong("The body has to be a row document, in YAML or JSON.");
        }
        return RowDocument.of("body", body);
    }

    private static Map<String, Object> labelled(Loaded loaded) {
        Map<String, Object> tables = new LinkedHashMap<>();
        loaded.labelled().forEach((table, rows) -> {
            Map<String, Object> byLabel = new LinkedHashMap<>();
            rows.forEach((label, row) -> byLabel.put(label, RowsAsJson.of(row)));
            tables.put(table, byLabel);
        });
        return tables;
    }

    Answer add(Asked asked) {
        RequestBody body = RequestBody.of(asked.body(), "rows", "filled");
        Map<String, Integer> counts = body.counts("rows");
        boolean filled = body.flag("filled");
        return Answer.of(stages.require(asked.stage()).call(false, stage -> {
            Bulk bulk = null;
            for (Map.Entry<String, Integer> one : counts.entrySet()) {
                String table = stage.schema().require(one.getKey()).name();
                bulk = bulk == null ? Bulk.of(one.getValue(), table) : bulk.and(one.getValue(), table);
            }
            Bulk all = Objects.requireNonNull(bulk);
            return Map.of("stored", stage.add(filled ? all.filled() : all));
        }));
    }

    Answer rows(Asked asked) {
        Fields query = asked.query();
        Set<String> known = new LinkedHashSet<>(List.of("table", "where", "order", "column", "first", "count", "all"));
        for (String name : query.getNames()) {
            if (!known.contains(name)) {
                throw RequestBody.wrong(new UnknownNameException("parameter", name, known).getMessage());
            }
        }
        for (String once : List.of("table", "first", "count", "all")) {
            if (values(query, once).size() > 1) {
                throw RequestBody.wrong("The parameter '" + once + "' stands there more than once.");
            }
        }
        String name = query.getValue("table");
        if (name == null) {
            throw RequestBody.wrong("Which table? Name it: rows?table=stay.");
        }
        int first = first(query.getValue("first"));
        boolean onlyCount = flag(query, "count");
        boolean all = flag(query, "all");
        List<String> order = values(query, "order");
        if (onlyCount && Stream.of("order", "column", "first", "all").anyMatch(query.getNames()::contains)) {
            throw RequestBody.wrong("count=true shows no rows: leave out order, column, first and all.");
        }
        return Answer.of(stages.require(asked.stage()).call(true, stage -> {
            Table table = stage.schema().require(name);
            RowSelection selection = new RowSelection(stage.store(), table, values(query, "where"));
            Map<String, Object> members = new LinkedHashMap<>();
            members.put("table", table.name());
            if (onlyCount) {
                members.put("count", selection.count());
                return members;
            }
            RowSelection.Shown parts = RowSelection.Shown.of(table, values(query, "column"), all);
            List<Row> rows = selection.first(first + 1, order);
            members.put(
                    "rows",
                    rows.stream()
                            .limit(first)
                            .map(row -> RowsAsJson.of(RowPart.of(parts.shown(), row)))
                            .toList());
            members.put("more", rows.size() > first);
            members.put("hidden", parts.hiddenNames());
            return members;
        }));
    }

    private static List<String> values(Fields query, String name) {
        return query.getNames().contains(name) ? query.getValuesOrEmpty(name) : List.of();
    }

    private static boolean flag(Fields query, String name) {
        String value = query.getValue(name);
        if (value != null && !value.equals("true") && !value.equals("false")) {
            throw RequestBody.wrong("'" + name + "' is true or false.");
        }
        return "true".equals(value);
    }

    private static int first(@Nullable String text) {
        if (text == null) {
            return FIRST;
        }
        if (!text.matches("[1-9]\\d{0,4}") || Integer.parseInt(text) > MOST) {
            throw RequestBody.wrong("'first' is a number from 1 to " + MOST + ".");
        }
        return Integer.parseInt(text);
    }

    Answer clear(Asked asked) {
        List<String> names = RequestBody.of(asked.body(), "tables").texts("tables");
        return Answer.of(stages.require(asked.stage()).call(false, stage -> {
            List<Table> tables = names.isEmpty()
                    ? stage.schema().tables()
                    : names.stream().map(stage.schema()::require).toList();
            Map<String, Object> deleted = new LinkedHashMap<>();
            for (Table table : tables) {
                long held = stage.store().count(table);
                if (held > 0) {
                    deleted.put(table.name(), held);
                }
            }
            Jdbc.clear(stage, tables, null);
            return Map.of("deleted", deleted);
        }));
    }

    Answer mark(Asked asked) {
        String name = RequestBody.of(asked.body(), "name").text("name");
        if (name == null || !name.matches("[\\p{L}\\p{N}_.-]{1,60}")) {
            throw RequestBody.wrong("A point has a 'name' of 1 to 60 letters, digits, and the characters _ . -");
        }
        ServedStage stage = stages.require(asked.stage());
        stage.mark(name);
        return new Answer(201, whole(stage), "application/json");
    }

    Answer rewind(Asked asked) {
        String to = RequestBody.of(asked.body(), "to").text("to");
        return Answer.of(Map.of("actGivenUp", stages.require(asked.stage()).rewind(to)));
    }

    Answer beginAct(Asked asked) {
        RequestBody.of(asked.body());
        stages.require(asked.stage()).beginAct();
        return new Answer(201, Map.of("acting", true), "application/json");
    }

    Answer endAct(Asked asked) {
        RequestBody body = RequestBody.of(asked.body(), "quietMillis", "atMostMillis");
        Duration quiet = body.millis("quietMillis");
        Duration atMost = body.millis("atMostMillis");
        if (atMost != null && quiet == null) {
            throw RequestBody.wrong("'atMostMillis' bounds the wait for 'quietMillis' without a change; say that too.");
        }
        ServedStage.Ended ended = stages.require(asked.stage()).endAct(quiet, atMost == null ? AT_MOST : atMost);
        Map<String, Object> members = changes(ended.footprint());
        members.put("quiet", ended.quiet());
        return Answer.of(members);
    }

    private static Map<String, Object> changes(Footprint footprint) {
        Map<String, Object> members = new LinkedHashMap<>();
        members.put("changes", RowsAsJson.of(footprint.changes()));
        return members;
    }

    Answer footprint(Asked asked) {
        return Answer.of(changes(stages.require(asked.stage()).footprint()));
    }

    Answer expect(Asked asked) {
        RowDocument document = document(asked.body());
        if (!document.expectsStored() && !document.expectsChanged()) {
            throw RequestBody.wrong("The document has neither an expect part nor a footprint part.");
        }
        ServedStage served = stages.require(asked.stage());
        return Answer.of(served.call(false, stage -> {
            List<Runnable> checks = new ArrayList<>();
            if (document.expectsChanged()) {
                Footprint footprint = served.requireLast();
                checks.add(() -> footprint.expect(document));
            }
            if (document.expectsStored()) {
                checks.add(() -> stage.expect(document));
            }
            return checked(checks);
        }));
    }

    private static Map<String, Object> checked(List<Runnable> checks) {
        Map<String, Object> members = new LinkedHashMap<>();
        try {
            Expected.together(checks.toArray(Runnable[]::new));
            members.put("holds", true);
        } catch (AssertionError e) {
            members.put("holds", false);
            members.put("report", plain(e));
            members.put("failures", parts(e).map(StageOperations::failure).toList());
        }
        return members;
    }

    /** Where several expectations do not hold, each is told of by an error of its own, in any depth. */
    private static Stream<Throwable> parts(Throwable failure) {
        Throwable[] suppressed = failure.getSuppressed();
        return suppressed.length == 0
                ? Stream.of(failure)
                : Stream.of(suppressed).flatMap(StageOperations::parts);
    }

    private static String plain(Throwable failure) {
        String report = failure instanceof ExpectationFailure own ? own.plain() : String.valueOf(failure.getMessage());
        return report.stripTrailing();
    }

    private static Map<String, Object> failure(Throwable failure) {
        Map<String, Object> members = new LinkedHashMap<>();
        members.put("report", plain(failure));
        if (failure instanceof AssertionFailedError known && known.isExpectedDefined() && known.isActualDefined()) {
            members.put("expected", known.getExpected().getStringRepresentation());
            members.put("actual", known.getActual().getStringRepresentation());
        }
        return members;
    }
}
