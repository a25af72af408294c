package dev.zabbet.files.internal.suite;

import com.samskivert.mustache.Mustache;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.files.internal.suite.SuiteReport.Place;
import dev.zabbet.files.internal.suite.SuiteReport.UnseenColumn;
import dev.zabbet.files.internal.suite.SuiteTest.SuiteAct;
import dev.zabbet.internal.text.Words;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The report as one page of HTML that needs nothing else. What is to be done and the tables are written into it; the tests are data,
 * each text once, and are shown as far as somebody looks at them, so that thousands of them open at once.
 */
final class SuitePage {
    private static final int MOST_PLACES = 6;

    private final SuiteReport report;
    private final Map<String, Integer> texts = new LinkedHashMap<>();

    private SuitePage(SuiteReport report) {
        this.report = report;
    }

    static String of(SuiteReport report) {
        return Mustache.compiler().escapeHTML(true).compile(template()).execute(new SuitePage(report).context());
    }

    private static String template() {
        try (InputStream in = SuitePage.class.getResourceAsStream("page.html")) {
            return new String(Objects.requireNonNull(in).readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private Map<String, Object> context() {
        List<SuiteTest> tests = report.all();
        Map<String, List<SuiteTest>> byTest = new LinkedHashMap<>();
        report.hollow().forEach(test -> byTest.computeIfAbsent(test.test(), name -> new ArrayList<>())
                .add(test));
        List<Map<String, Object>> hollow =
                byTest.values().stream().map(SuitePage::hollow).toList();
        List<UnseenColumn> unseen = report.unseen();
        List<Map<String, Object>> nowhere = unseen.stream()
                .filter(one -> one.anywhere() == Seen.UNSEEN)
                .map(SuitePage::unseen)
                .toList();
        List<Map<String, Object>> elsewhere = unseen.stream()
                .filter(one -> one.anywhere() != Seen.UNSEEN)
                .map(SuitePage::unseen)
                .toList();
        List<Map<String, Object>> loose =
                report.loose().stream().map(SuitePage::loose).toList();
        Map<String, Object> context = new LinkedHashMap<>();
        context.put("tests", Words.count(tests.size(), "test"));
        context.put("passed", count(tests, "passed"));
        context.put("failed", count(tests, "failed"));
        context.put("anyFailed", count(tests, "failed") > 0);
        context.put("aborted", count(tests, "aborted"));
        context.put("anyAborted", count(tests, "aborted") > 0);
        context.put(
                "began",
                report.tests().or(report::counterproof).map(SuiteRun::began).orElse(""));
        context.put("proved", report.counterproof().isPresent());
        context.put("provedAt", report.counterproof().map(SuiteRun::began).orElse(""));
        context.put(
                "provedTests",
                report.counterproof().map(run -> run.tests().size()).orElse(0));
        section(context, "hollow", hollow);
        section(context, "nowhere", nowhere);
        section(context, "elsewhere", elsewhere);
        section(context, "loose", loose);
        section(context, "hints", report.hints().stream().map(SuitePage::loose).toList());
        section(context, "changes", report.changes());
        context.put("todo", hollow.size() + nowhere.size() + loose.size());
        context.put("tables", tables());
        context.put("data", data());
        return context;
    }

    private static Map<String, Object> loose(SuiteReport.Loose one) {
        return Map.of(
                "line",
                one.end().line(),
                "text",
                one.end().text(),
                "test",
                one.test().test());
    }

    private static void section(Map<String, Object> context, String name, List<?> list) {
        context.put(name, list);
        context.put(name + "Count", list.size());
        context.put("any" + name.substring(0, 1).toUpperCase(Locale.ROOT) + name.substring(1), !list.isEmpty());
    }

    private static long count(List<SuiteTest> tests, String outcome) {
        return tests.stream().filter(test -> test.outcome().equals(outcome)).count();
    }

    /** @param runs all hollow runs of one test; the first stands for them */
    private static Map<String, Object> hollow(List<SuiteTest> runs) {
        SuiteTest test = runs.get(0);
        List<SuiteAct> storing =
                test.acts().stream().filter(act -> !act.changes().isEmpty()).toList();
        return Map.of(
                "test",
                test.test(),
                "title",
                test.className() + "." + test.method(),
                "name",
                runs.stream()
                        .map(SuiteTest::name)
                        .filter(name -> !name.isEmpty())
                        .collect(Collectors.joining("; ")),
                "acts",
                storing.stream()
                        .map(act -> Map.of("line", act.line(), "changes", act.changes()))
                        .toList(),
                "looks",
                test.looks(),
                "nothing",
                test.looks().isEmpty());
    }

    private static Map<String, Object> unseen(UnseenColumn one) {
        List<Place> places = one.places();
        return Map.of(
                "title",
                one.title(),
                "seen",
                one.anywhere().word(),
                "places",
                places.stream()
                        .limit(MOST_PLACES)
                        .map(place -> Map.of(
                                "line", place.line(), "test", place.test().test()))
                        .toList(),
                "more",
                places.size() > MOST_PLACES ? " and " + (places.size() - MOST_PLACES) + " more" : "");
    }

    private List<Map<String, Object>> tables() {
        Map<String, Map<String, Seen>> known = report.columns();
        List<Map<String, Object>> tables = new ArrayList<>();
        report.tests().map(SuiteRun::tables).orElse(Map.of()).forEach((name, table) -> {
            Map<String, Seen> columns = known.getOrDefault(name, Map.of());
            tables.add(Map.of(
                    "name",
                    table.name(),
                    "columns",
                    table.columns().stream()
                            .map(column -> {
                                Seen seen = columns.getOrDefault(
                                        column.name().toLowerCase(Locale.ROOT), Seen.NEVER_WRITTEN);
                                return Map.of(
                                        "name",
                                        column.name(),
                                        "type",
                                        column.type().toLowerCase(Locale.ROOT),
                                        "mark",
                                        column.mark(),
                                        "seen",
                                        seen.word(),
                                        "css",
                                        seen.word().replace(' ', '-'));
                            })
                            .toList()));
        });
        return tables;
    }

    /** Each text stands once in a list, and everything else names it by its number. */
    private String data() {
        Map<String, SuiteTest> proofs = new LinkedHashMap<>();
        report.counterproof().map(SuiteRun::tests).orElse(List.of()).forEach(test -> proofs.put(test.key(), test));
        List<Object> tests = new ArrayList<>();
        for (SuiteTest test : report.all()) {
            SuiteTest proof = proofs.remove(proofs.containsKey(test.key()) ? test.key() : "");
            tests.add(test(test, proof));
        }
        proofs.values().forEach(proof -> tests.add(test(proof, proof)));
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("tests", tests);
        data.put("texts", texts.keySet());
        return JsonTree.compact(data).replace("</", "<\\/");
    }

    private List<Object> test(SuiteTest test, @Nullable SuiteTest proof) {
        List<Object> arranged = new ArrayList<>();
        test.arranged().forEach((table, rows) -> arranged.add(List.of(number(table), rows)));
        return List.of(
                number(test.test()),
                number(test.name()),
                number(test.outcome()),
                test.millis(),
                number(test.failure()),
                arranged,
                test.acts().stream().map(this::act).toList(),
                test.looks().stream()
                        .map(look -> List.of(number(look.line()), number(look.text()), number(look.kind())))
                        .toList(),
                test.loose().stream()
                        .map(end -> List.of(number(end.line()), number(end.text()), SuiteReport.isHint(end) ? 1 : 0))
                        .toList(),
                number(proof == null ? "" : proof.verdict()),
                number(proof == null ? "" : proof.why()),
                test.untried());
    }

    private List<Object> act(SuiteAct act) {
        List<Object> written = new ArrayList<>();
        act.written()
                .forEach((table, columns) -> columns.forEach((column, seen) -> {
                    if (!seen.equals(Seen.SEEN.word())) {
                        written.add(List.of(number(table), number(column), number(seen)));
                    }
                }));
        return List.of(
                number(act.line()),
                act.left(),
                act.changes().stream().map(this::number).toList(),
                written);
    }

    private int number(String text) {
        return texts.computeIfAbsent(text, one -> texts.size());
    }
}
