package dev.zabbet.files.internal.suite;

import dev.zabbet.files.internal.suite.SuiteTest.SuiteAct;
import dev.zabbet.files.internal.suite.SuiteTest.SuiteLoose;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;

/**
 * What the last runs of a suite tell together.
 *
 * @param tests the last run; empty if there was none
 * @param before the run before that
 * @param counterproof the last counterproof
 */
public record SuiteReport(Optional<SuiteRun> tests, Optional<SuiteRun> before, Optional<SuiteRun> counterproof) {

    /**
     * A column whose value in some act no expectation would miss.
     *
     * @param column its name, or {@link Seen#ROW} or {@link Seen#ONE_MORE}
     * @param anywhere what the suite as a whole knows of it
     * @param places the acts, each once: the line and the test
     */
    public record UnseenColumn(String table, String column, Seen anywhere, List<Place> places) {
        /** Returns {@code stay.price}; {@code stay, the row as a whole}; {@code stay, one row more}. */
        public String title() {
            return switch (column) {
                case Seen.ROW -> table + ", the row as a whole";
                case Seen.ONE_MORE -> table + ", one row more";
                default -> table + "." + column;
            };
        }
    }

    /** A line of a test. */
    public record Place(String line, SuiteTest test) {}

    /** A loose end of a test. */
    public record Loose(SuiteLoose end, SuiteTest test) {}

    /** Returns the tests of the last run. */
    public List<SuiteTest> all() {
        return tests.map(SuiteRun::tests).orElse(List.of());
    }

    /** Returns the hollow tests of the last counterproof; of several runs of one method all. */
    public List<SuiteTest> hollow() {
        return counterproof.map(SuiteRun::tests).orElse(List.of()).stream()
                .filter(test -> test.verdict().equals("hollow"))
                .sorted(Comparator.comparing(SuiteTest::test))
                .toList();
    }

    /** Returns what is known of each column that the tests' tables have. */
    public Map<String, Map<String, Seen>> columns() {
        Map<String, Map<String, Seen>> tables = new LinkedHashMap<>();
        tests.map(SuiteRun::tables).orElse(Map.of()).forEach((name, table) -> {
            Map<String, Seen> columns = new LinkedHashMap<>();
            table.columns().forEach(column -> columns.put(column.name().toLowerCase(Locale.ROOT), Seen.NEVER_WRITTEN));
            tables.put(name, columns);
        });
        for (SuiteTest test : all()) {
            for (SuiteAct act : test.acts()) {
                act.written().forEach((table, columns) -> {
                    Map<String, Seen> known =
                            tables.computeIfAbsent(table.toLowerCase(Locale.ROOT), name -> new LinkedHashMap<>());
                    columns.forEach((column, seen) -> known.merge(lower(column), Seen.of(seen), Seen::or));
                });
            }
        }
        return tables;
    }

    /** Returns the values that no expectation would miss: first those that no test of the suite looks at. */
    public List<UnseenColumn> unseen() {
        Map<String, Map<String, Seen>> known = columns();
        Map<String, UnseenColumn> found = new LinkedHashMap<>();
        for (SuiteTest test : all()) {
            for (SuiteAct act : test.acts()) {
                act.written()
                        .forEach((table, columns) -> columns.forEach((column, seen) -> {
                            if (Seen.of(seen) == Seen.UNSEEN) {
                                String of = table.toLowerCase(Locale.ROOT);
                                UnseenColumn one = found.computeIfAbsent(
                                        of + "\n" + lower(column),
                                        key -> new UnseenColumn(
                                                of,
                                                lower(column),
                                                known.getOrDefault(of, Map.of())
                                                        .getOrDefault(lower(column), Seen.UNSEEN),
                                                new ArrayList<>()));
                                if (one.places().stream()
                                        .noneMatch(place -> place.line().equals(act.line()))) {
                                    one.places().add(new Place(act.line(), test));
                                }
                            }
                        }));
            }
        }
        List<UnseenColumn> sorted = new ArrayList<>(found.values());
        sorted.sort(Comparator.comparing(UnseenColumn::anywhere)
                .thenComparing(one -> one.column().startsWith("("))
                .thenComparing(one -> -one.places().size())
                .thenComparing(UnseenColumn::title));
        return sorted;
    }

    private static int number(String line) {
        String number = line.substring(line.lastIndexOf(':') + 1);
        return number.matches("\\d{1,9}") ? Integer.parseInt(number) : 0;
    }

    private static String lower(String column) {
        return column.toLowerCase(Locale.ROOT);
    }

    /** Returns the loose ends, each line once. */
    public List<Loose> loose() {
        return ends(end -> !isHint(end));
    }

    /** Returns what is no more than a hint: footprints that were expected in part. */
    public List<Loose> hints() {
        return ends(SuiteReport::isHint);
    }

    static boolean isHint(SuiteLoose end) {
        return end.kind().equals("footprint");
    }

    private List<Loose> ends(Predicate<SuiteLoose> which) {
        Map<String, Loose> found = new LinkedHashMap<>();
        for (SuiteTest test : all()) {
            test.loose().stream()
                    .filter(which)
                    .forEach(end -> found.putIfAbsent(end.line() + end.text(), new Loose(end, test)));
        }
        List<Loose> sorted = new ArrayList<>(found.values());
        sorted.sort(
                Comparator.<Loose, String>comparing(loose -> loose.end().line().replaceAll(":\\d+$", ""))
                        .thenComparingInt(loose -> number(loose.end().line())));
        return sorted;
    }

    /** Returns what is otherwise than in the run before, in sentences. */
    public List<String> changes() {
        if (tests.isEmpty() || before.isEmpty()) {
            return List.of();
        }
        List<String> changes = new ArrayList<>();
        Map<String, SuiteTest> earlier = byKey(before.get());
        Map<String, SuiteTest> now = byKey(tests.get());
        list(changes, "fails now", now, test -> test.outcome().equals("failed") && !wasFailing(earlier, test));
        list(changes, "passes again", now, test -> test.outcome().equals("passed") && wasFailing(earlier, test));
        list(
                changes,
                "is new",
                now,
                test -> !earlier.containsKey(test.key()) && !test.outcome().equals("failed"));
        list(changes, "did not run", earlier, test -> !now.containsKey(test.key()));
        Map<String, Map<String, Seen>> columnsBefore =
                new SuiteReport(before, Optional.empty(), Optional.empty()).columns();
        columns()
                .forEach((table, columns) -> columns.forEach((column, seen) -> {
                    Seen was = columnsBefore.getOrDefault(table, Map.of()).getOrDefault(column, Seen.NEVER_WRITTEN);
                    if (was != seen && !column.startsWith("(")) {
                        changes.add(table + "." + column + " is " + seen.word() + "; it was " + was.word() + ".");
                    }
                }));
        return changes;
    }

    private static boolean wasFailing(Map<String, SuiteTest> earlier, SuiteTest test) {
        SuiteTest was = earlier.get(test.key());
        return was != null && was.outcome().equals("failed");
    }

    private static void list(
            List<String> changes, String what, Map<String, SuiteTest> tests, Predicate<SuiteTest> which) {
        Set<String> names = new LinkedHashSet<>();
        tests.values().stream()
                .filter(which)
                .forEach(test -> names.add(test.className() + "." + test.method()
                        + (test.name().isEmpty() ? " " : ", " + test.name() + ", ") + what + "."));
        changes.addAll(names);
    }

    private static Map<String, SuiteTest> byKey(SuiteRun run) {
        Map<String, SuiteTest> tests = new LinkedHashMap<>();
        run.tests().forEach(test -> tests.put(test.key(), test));
        return tests;
    }
}
