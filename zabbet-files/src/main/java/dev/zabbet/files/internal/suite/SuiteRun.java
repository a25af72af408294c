package dev.zabbet.files.internal.suite;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * One run of a suite, as it is written down.
 *
 * @param kind {@code tests} or {@code counterproof}
 * @param id what the processes of a run have in common
 * @param began when its first process began, ISO 8601
 * @param tables the tables of all stages, by name in small letters
 * @param tests the tests, in the order in which they ran
 */
public record SuiteRun(String kind, String id, String began, Map<String, SuiteTable> tables, List<SuiteTest> tests) {
    private static final int FORMAT = 1;

    public static SuiteRun begin(boolean counterproof, String id, String began) {
        return new SuiteRun(
                counterproof ? "counterproof" : "tests", id, began, new LinkedHashMap<>(), new ArrayList<>());
    }

    public boolean isCounterproof() {
        return kind.equals("counterproof");
    }

    /** Tells whether a part belongs to this run: it has its id, and no test has run in both, in two processes. */
    boolean isContinuedBy(SuiteRun part) {
        if (!id.equals(part.id)) {
            return false;
        }
        Map<String, String> processes = new LinkedHashMap<>();
        tests.forEach(test -> processes.put(test.key(), test.process()));
        return part.tests.stream()
                .allMatch(test ->
                        processes.getOrDefault(test.key(), test.process()).equals(test.process()));
    }

    /** Returns this run with a part of it; tests that ran again take the place of what they were. */
    SuiteRun with(SuiteRun part) {
        Map<String, SuiteTable> allTables = new LinkedHashMap<>(tables);
        allTables.putAll(part.tables);
        Map<String, SuiteTest> allTests = new LinkedHashMap<>();
        tests.forEach(test -> allTests.put(test.key(), test));
        part.tests.forEach(test -> allTests.put(test.key(), test));
        return new SuiteRun(kind, id, began, allTables, List.copyOf(allTests.values()));
    }

    Map<String, @Nullable Object> tree() {
        Map<String, @Nullable Object> tree = new LinkedHashMap<>();
        tree.put("format", FORMAT);
        tree.put("kind", kind);
        tree.put("run", id);
        tree.put("began", began);
        tree.put("tables", tables.values().stream().map(SuiteTable::tree).toList());
        tree.put("tests", tests.stream().map(SuiteTest::tree).toList());
        return tree;
    }

    /** Reads a run; empty if it is of another format, which an older or newer version has written. */
    static Optional<SuiteRun> of(@Nullable Object tree) {
        Tree run = Tree.of(tree);
        if (run.number("format") != FORMAT) {
            return Optional.empty();
        }
        Map<String, SuiteTable> tables = new LinkedHashMap<>();
        run.list("tables").stream()
                .map(SuiteTable::of)
                .forEach(table -> tables.put(table.name().toLowerCase(java.util.Locale.ROOT), table));
        return Optional.of(new SuiteRun(
                run.text("kind"),
                run.text("run"),
                run.text("began"),
                tables,
                run.list("tests").stream().map(SuiteTest::of).toList()));
    }
}
