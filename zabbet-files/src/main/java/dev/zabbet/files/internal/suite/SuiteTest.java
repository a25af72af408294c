package dev.zabbet.files.internal.suite;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * One run of one test.
 *
 * @param test class and method, {@code dev.huts.StayDeskTest#cancels}
 * @param name how the run is called, with the stage, the parameters or the repetition
 * @param module the folder that it ran in
 * @param process the process that it ran in
 * @param outcome {@code passed}, {@code failed} or {@code aborted}
 * @param failure what made it fail; empty if nothing did
 * @param arranged how many rows of which table the test stored by itself
 * @param acts its acts, in order
 * @param looks what it looked at, in order
 * @param loose its loose ends
 * @param untried how many rows there were too many of to ask about
 * @param verdict {@code hollow}, {@code noticed}, {@code fails} or {@code none}; empty but in a counterproof
 * @param why why there is no verdict; empty if there is one
 */
public record SuiteTest(
        String test,
        String name,
        String module,
        String process,
        String outcome,
        long millis,
        String failure,
        Map<String, Integer> arranged,
        List<SuiteAct> acts,
        List<SuiteLook> looks,
        List<SuiteLoose> loose,
        int untried,
        String verdict,
        String why) {

    /**
     * An act.
     *
     * @param line where it is, {@code StayDeskTest.java:41}
     * @param left how many rows it added, changed and removed
     * @param changes the first of them, in words
     * @param written for each table and column that it wrote, what is known of that: see {@link Seen}
     */
    public record SuiteAct(
            String line, List<Integer> left, List<String> changes, Map<String, Map<String, String>> written) {}

    /**
     * Something that the test looked at.
     *
     * @param kind {@code held}, {@code failed} or {@code read}
     */
    public record SuiteLook(String line, String text, String kind) {}

    /** A loose end. */
    public record SuiteLoose(String kind, String line, String text) {}

    /** Returns what tells this run of the test from all others. */
    public String key() {
        return module + "/" + test + "/" + name;
    }

    /** Returns the class without its package: {@code StayDeskTest}. */
    public String className() {
        String full = test.substring(0, test.indexOf('#'));
        return full.substring(full.lastIndexOf('.') + 1).replace('$', '.');
    }

    /** Returns the method: {@code cancels}. */
    public String method() {
        return test.substring(test.indexOf('#') + 1);
    }

    Map<String, @Nullable Object> tree() {
        Map<String, @Nullable Object> tree = new LinkedHashMap<>();
        tree.put("test", test);
        tree.put("name", name);
        tree.put("module", module);
        tree.put("process", process);
        tree.put("outcome", outcome);
        tree.put("millis", millis);
        put(tree, "failure", failure);
        if (!arranged.isEmpty()) {
            tree.put("arranged", arranged);
        }
        tree.put("acts", acts.stream().map(SuiteTest::tree).toList());
        tree.put(
                "looks",
                looks.stream()
                        .map(look -> fields("line", look.line(), "text", look.text(), "kind", look.kind()))
                        .toList());
        if (!loose.isEmpty()) {
            tree.put(
                    "loose",
                    loose.stream()
                            .map(end -> fields("kind", end.kind(), "line", end.line(), "text", end.text()))
                            .toList());
        }
        if (untried > 0) {
            tree.put("untried", untried);
        }
        put(tree, "verdict", verdict);
        put(tree, "why", why);
        return tree;
    }

    private static Map<String, @Nullable Object> tree(SuiteAct act) {
        Map<String, @Nullable Object> tree = new LinkedHashMap<>();
        tree.put("line", act.line());
        tree.put("left", act.left());
        tree.put("changes", act.changes());
        if (!act.written().isEmpty()) {
            tree.put("written", act.written());
        }
        return tree;
    }

    private static void put(Map<String, @Nullable Object> tree, String name, String text) {
        if (!text.isEmpty()) {
            tree.put(name, text);
        }
    }

    private static Map<String, String> fields(String... namesAndTexts) {
        Map<String, String> fields = new LinkedHashMap<>();
        for (int i = 0; i < namesAndTexts.length; i += 2) {
            fields.put(namesAndTexts[i], namesAndTexts[i + 1]);
        }
        return fields;
    }

    static SuiteTest of(Tree tree) {
        Map<String, Integer> arranged = new LinkedHashMap<>();
        tree.tree("arranged").texts().forEach((table, rows) -> arranged.put(table, Integer.valueOf(rows)));
        return new SuiteTest(
                tree.text("test"),
                tree.text("name"),
                tree.text("module"),
                tree.text("process"),
                tree.text("outcome"),
                tree.number("millis"),
                tree.text("failure"),
                arranged,
                tree.list("acts").stream().map(SuiteTest::act).toList(),
                tree.list("looks").stream()
                        .map(look -> new SuiteLook(look.text("line"), look.text("text"), look.text("kind")))
                        .toList(),
                tree.list("loose").stream()
                        .map(end -> new SuiteLoose(end.text("kind"), end.text("line"), end.text("text")))
                        .toList(),
                (int) tree.number("untried"),
                tree.text("verdict"),
                tree.text("why"));
    }

    private static SuiteAct act(Tree tree) {
        Map<String, Map<String, String>> written = new LinkedHashMap<>();
        tree.tree("written")
                .fields()
                .forEach((table, columns) ->
                        written.put(String.valueOf(table), Tree.of(columns).texts()));
        return new SuiteAct(
                tree.text("line"),
                tree.texts("left").stream().map(Integer::valueOf).toList(),
                tree.texts("changes"),
                written);
    }
}
