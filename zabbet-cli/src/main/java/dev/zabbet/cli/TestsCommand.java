package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.suite.Seen;
import dev.zabbet.files.internal.suite.SuiteFolder;
import dev.zabbet.files.internal.suite.SuiteReport;
import dev.zabbet.files.internal.suite.SuiteReport.UnseenColumn;
import dev.zabbet.files.internal.suite.SuiteRun;
import dev.zabbet.files.internal.suite.SuiteTest;
import dev.zabbet.internal.text.Words;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Says what the tests of the last run would miss. */
@Command(
        name = "tests",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Says what the tests of the last run would miss: hollow tests, values that nobody looks at, loose ends. Reads what"
                    + " tests with @Staged or @EveryStage have written down in target/zabbet.",
            "",
            "Example: zabbet tests",
            "Example: zabbet tests --forbid hollow --known hollow-tests.txt   (in a build: exit status 1 if there are others)",
            "Example: zabbet tests --hollow > hollow-tests.txt                (the tests that are known from now on)",
            ""
        })
final class TestsCommand implements Callable<Integer> {
    private static final int MOST_SHOWN = 8;
    private static final int MOST_IN_MARKDOWN = 40;

    @Parameters(
            index = "0",
            arity = "0..1",
            paramLabel = "FOLDER",
            description =
                    "Where the tests have written; without it, target/zabbet (with Gradle build/zabbet) of the project here.")
    private @Nullable Path folder;

    @ArgGroup
    private @Nullable Form form;

    @Option(
            names = "--forbid",
            paramLabel = "WHAT",
            description = "Exit status 1 if there is any: hollow, unseen or loose. May be given several times.")
    private List<What> forbidden = new ArrayList<>();

    @Option(
            names = "--known",
            paramLabel = "FILE",
            description = "Hollow tests that this file lists, one a line, are not forbidden.")
    private @Nullable Path known;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    /** What a test can be found to be. */
    enum What {
        hollow,
        unseen,
        loose
    }

    /** How it is printed, if not for people. */
    static final class Form {
        @Option(names = "--json", description = "Prints it as JSON, for programs.")
        boolean json;

        @Option(names = "--markdown", description = "Prints it as Markdown, for the summary of a build or a comment.")
        boolean markdown;

        @Option(names = "--hollow", description = "Prints the hollow tests alone, one a line.")
        boolean hollow;
    }

    @Override
    public Integer call() {
        Path from = folder;
        if (from == null) {
            from = SuiteFolder.ofProject(Path.of(""))
                    .orElseThrow(
                            () -> new ZabbetException(
                                    "No project with a build file (pom.xml, build.gradle) is around"
                                            + " this folder. Name the folder where its tests have written: zabbet tests FOLDER."));
        }
        SuiteFolder suite = new SuiteFolder(from);
        SuiteReport report = suite.read();
        PrintWriter out = spec.commandLine().getOut();
        if (form == null) {
            print(report, suite, new Terminal(out));
        } else if (form.json) {
            out.println(OutputOptions.json(tree(report)));
        } else if (form.markdown) {
            out.print(markdown(report));
        } else {
            names(report.hollow()).forEach(out::println);
        }
        out.flush();
        return forbidden.stream().anyMatch(what -> isFound(what, report)) ? 1 : 0;
    }

    private boolean isFound(What what, SuiteReport report) {
        return switch (what) {
            case hollow -> {
                Set<String> names = names(report.hollow());
                if (known != null) {
                    names.removeAll(SuiteFolder.knownHollow(known));
                }
                yield !names.isEmpty();
            }
            case unseen -> !nowhere(report).isEmpty();
            case loose -> !report.loose().isEmpty();
        };
    }

    private static Set<String> names(List<SuiteTest> tests) {
        return tests.stream().map(SuiteTest::test).collect(Collectors.toCollection(LinkedHashSet::new));
    }

    private static List<UnseenColumn> nowhere(SuiteReport report) {
        return report.unseen().stream()
                .filter(one -> one.anywhere() == Seen.UNSEEN)
                .toList();
    }

    private static void print(SuiteReport report, SuiteFolder suite, Terminal paper) {
        report.tests().ifPresent(run -> paper.heading(headline(run)));
        report.counterproof().ifPresentOrElse(run -> hollow(report, run, paper), () -> {
            paper.blank();
            paper.shown(
                    paper.bold("Hollow tests"), ": not known yet. Run the tests once with -Dzabbet.counterproof=true.");
        });
        List<UnseenColumn> nowhere = nowhere(report);
        list(
                paper,
                "Values that no test looks at",
                List.of("column", "written at"),
                nowhere.stream().map(one -> List.of(one.title(), places(one))).toList());
        list(
                paper,
                "Loose ends",
                List.of("line", "what"),
                report.loose().stream()
                        .map(one -> List.of(one.end().line(), one.end().text()))
                        .toList());
        if (!report.hints().isEmpty()) {
            paper.blank();
            paper.shown(
                    paper.bold("Footprints expected without nothingElse()"),
                    ": " + report.hints().size() + ", a hint");
        }
        list(
                paper,
                "Since the run before",
                List.of(),
                report.changes().stream().map(change -> List.of(change)).toList());
        paper.blank();
        paper.line("The whole of it: " + suite.page());
    }

    private static String headline(SuiteRun run) {
        return Words.count(run.tests().size(), "test") + ": "
                + Stream.of("passed", "failed", "aborted")
                        .map(outcome -> Map.entry(
                                outcome,
                                run.tests().stream()
                                        .filter(test -> test.outcome().equals(outcome))
                                        .count()))
                        .filter(counted -> counted.getValue() > 0)
                        .map(counted -> counted.getValue() + " " + counted.getKey())
                        .collect(Collectors.joining(", "));
    }

    private static void hollow(SuiteReport report, SuiteRun run, Terminal paper) {
        List<List<String>> lines = new ArrayList<>();
        Set<String> seen = new LinkedHashSet<>();
        for (SuiteTest test : report.hollow()) {
            if (seen.add(test.test())) {
                String line = test.acts().stream()
                        .filter(act -> !act.changes().isEmpty())
                        .map(SuiteTest.SuiteAct::line)
                        .findFirst()
                        .orElse("");
                lines.add(List.of(test.className() + "." + test.method(), line));
            }
        }
        list(
                paper,
                "Hollow tests, of " + Words.count(run.tests().size(), "test") + " in the counterproof",
                List.of("test", "act that stored something"),
                lines);
    }

    private static String places(UnseenColumn one) {
        String first =
                one.places().stream().limit(3).map(SuiteReport.Place::line).collect(Collectors.joining(", "));
        int more = one.places().size() - 3;
        return more > 0 ? first + " and " + more + " more" : first;
    }

    /** @param heads the heads of the columns; none for a plain list */
    private static void list(Terminal paper, String title, List<String> heads, List<List<String>> lines) {
        paper.blank();
        paper.shown(paper.bold(title), ": " + (lines.isEmpty() ? paper.good("none") : lines.size()));
        List<List<String>> shown = lines.subList(0, Math.min(lines.size(), MOST_SHOWN));
        if (heads.isEmpty()) {
            shown.forEach(line -> paper.line("  " + line.get(0)));
        } else if (!shown.isEmpty()) {
            List<List<String>> grid = new ArrayList<>(List.of(heads));
            grid.addAll(shown);
            paper.grid("  ", grid);
        }
        if (lines.size() > MOST_SHOWN) {
            paper.line("  … and " + (lines.size() - MOST_SHOWN) + " more");
        }
    }

    private static Map<String, Object> tree(SuiteReport report) {
        Map<String, Object> tree = new LinkedHashMap<>();
        tree.put("tests", report.all().size());
        tree.put(
                "failed",
                report.all().stream()
                        .filter(test -> test.outcome().equals("failed"))
                        .count());
        tree.put("counterproof", report.counterproof().isPresent());
        tree.put("hollow", names(report.hollow()));
        tree.put(
                "unseen",
                nowhere(report).stream()
                        .map(one -> Map.of(
                                "table",
                                one.table(),
                                "column",
                                one.column(),
                                "lines",
                                one.places().stream()
                                        .map(SuiteReport.Place::line)
                                        .toList()))
                        .toList());
        tree.put(
                "loose",
                report.loose().stream()
                        .map(one -> Map.of(
                                "kind",
                                one.end().kind(),
                                "line",
                                one.end().line(),
                                "text",
                                one.end().text()))
                        .toList());
        tree.put("changes", report.changes());
        return tree;
    }

    private static String markdown(SuiteReport report) {
        StringBuilder text = new StringBuilder("### What these tests would miss\n\n");
        report.tests().ifPresent(run -> text.append(headline(run)).append(".\n"));
        if (report.counterproof().isPresent()) {
            section(
                    text,
                    "Hollow tests",
                    report.hollow().stream()
                            .map(test -> "`" + test.test() + "`, " + test.name())
                            .toList());
        }
        section(
                text,
                "Values that no test looks at",
                nowhere(report).stream()
                        .map(one -> "`" + one.title() + "`, written at " + places(one))
                        .toList());
        section(
                text,
                "Loose ends",
                report.loose().stream()
                        .map(one -> one.end().line() + ": " + one.end().text())
                        .toList());
        section(text, "Since the run before", report.changes());
        return text.toString();
    }

    private static void section(StringBuilder text, String title, List<String> lines) {
        text.append("\n**")
                .append(title)
                .append("**: ")
                .append(lines.isEmpty() ? "none" : lines.size())
                .append("\n");
        if (!lines.isEmpty()) {
            text.append('\n');
        }
        lines.stream()
                .limit(MOST_IN_MARKDOWN)
                .forEach(line -> text.append("- ").append(line).append('\n'));
        if (lines.size() > MOST_IN_MARKDOWN) {
            text.append("- … and ").append(lines.size() - MOST_IN_MARKDOWN).append(" more\n");
        }
    }
}
