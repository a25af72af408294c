package dev.zabbet.junit.internal;

import dev.zabbet.files.internal.suite.Seen;
import dev.zabbet.files.internal.suite.SuiteFolder;
import dev.zabbet.files.internal.suite.SuiteRun;
import dev.zabbet.files.internal.suite.SuiteTable;
import dev.zabbet.files.internal.suite.SuiteTest;
import dev.zabbet.internal.report.Report;
import dev.zabbet.internal.story.LookedAt;
import dev.zabbet.internal.story.LooseEnd;
import dev.zabbet.internal.story.RecordedAct;
import dev.zabbet.internal.story.SourceLine;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.story.WrittenValue;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.io.IOException;
import java.lang.System.Logger.Level;
import java.nio.file.Path;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.opentest4j.TestAbortedException;

/** Keeps what the tests of this process did, and writes it down when the last of them has ended. Thread-safe. */
@SuppressWarnings("deprecation") // versions of JUnit before 5.13 close nothing else
final class SuiteRecorder implements ExtensionContext.Store.CloseableResource, AutoCloseable {
    private static final System.Logger LOG = System.getLogger("dev.zabbet.junit");
    private static final ExtensionContext.Namespace SPACE = ExtensionContext.Namespace.create(SuiteRecorder.class);
    private static final int MOST_CHANGES = 8;
    private static final int MOST_LOOKS = 40;
    private static final int LONGEST_TEXT = 200;
    private static final int LONGEST_FAILURE = 3_000;

    private final @Nullable Path folder;
    private final SuiteRun tests;
    private final SuiteRun counterproof;

    private SuiteRecorder(@Nullable Path folder) {
        this.folder = folder;
        String began = Instant.now().toString();
        this.tests = SuiteRun.begin(false, runId(), began);
        this.counterproof = SuiteRun.begin(true, runId(), began);
    }

    /** Returns the recorder of the run that a test belongs to. */
    static SuiteRecorder of(ExtensionContext context) {
        ExtensionContext root = context.getRoot();
        return root.getStore(SPACE)
                .getOrComputeIfAbsent(
                        SuiteRecorder.class,
                        key -> new SuiteRecorder(folder(root).orElse(null)),
                        SuiteRecorder.class);
    }

    /** Where it is said, as a configuration parameter of JUnit, a system property or in the environment; else the project's. */
    private static Optional<Path> folder(ExtensionContext root) {
        Optional<String> said =
                root.getConfigurationParameter(SuiteProperty.FOLDER).or(() -> Environment.get(SuiteProperty.FOLDER));
        return said.isPresent()
                ? said.filter(text -> !text.equals("none")).map(Path::of)
                : SuiteFolder.ofProject(Path.of(""));
    }

    /** The processes of a run have one parent, which is the build; or a name that is given to them. */
    private static String runId() {
        return Environment.get(SuiteProperty.RUN).orElseGet(() -> ProcessHandle.current()
                .parent()
                .map(parent -> parent.pid() + " "
                        + parent.info().startInstant().map(Instant::toString).orElse(""))
                .orElse("alone"));
    }

    /** Keeps what a test did. */
    synchronized void add(ExtensionContext context, Story story, long nanos, @Nullable Verdict verdict) {
        if (folder == null) {
            return;
        }
        SuiteRun run = story.isCounterproof() ? counterproof : tests;
        story.schema().ifPresent(schema -> addTables(run, schema));
        Optional<Throwable> failure = context.getExecutionException();
        run.tests()
                .add(new SuiteTest(
                        TestName.of(context),
                        name(context),
                        Path.of("").toAbsolutePath().getFileName().toString(),
                        String.valueOf(ProcessHandle.current().pid()),
                        failure.map(SuiteRecorder::outcome).orElse("passed"),
                        nanos / 1_000_000,
                        failure.map(SuiteRecorder::text).orElse(""),
                        story.arranged(),
                        story.acts().stream().map(act -> act(act, story)).toList(),
                        story.looks().stream()
                                .limit(MOST_LOOKS)
                                .map(SuiteRecorder::look)
                                .toList(),
                        failure.isPresent() || story.isCounterproof()
                                ? List.of()
                                : story.looseEnds().stream()
                                        .map(SuiteRecorder::loose)
                                        .toList(),
                        story.untried(),
                        verdict == null ? "" : verdict.kind().name().toLowerCase(Locale.ROOT),
                        verdict == null ? "" : cut(verdict.why(), LONGEST_TEXT)));
    }

    private static String outcome(Throwable failure) {
        return failure instanceof TestAbortedException ? "aborted" : "failed";
    }

    private static void addTables(SuiteRun run, Schema schema) {
        for (Table table : schema.tables()) {
            run.tables()
                    .putIfAbsent(
                            table.name().toLowerCase(Locale.ROOT),
                            new SuiteTable(
                                    table.name(),
                                    table.columns().stream()
                                            .map(column -> new SuiteTable.SuiteColumn(
                                                    column.name(), column.type().sqlName(), mark(table, column)))
                                            .toList()));
        }
    }

    private static String mark(Table table, Column column) {
        if (table.keyColumns().contains(column.name())) {
            return "key";
        }
        return table.referencesOf(column.name()).isEmpty() ? "" : "reference";
    }

    /** Returns how a run of a test is called, with what is around it inside of its class: {@code on H2 › cancels(Stage)}. */
    private static String name(ExtensionContext context) {
        String method = context.getRequiredTestMethod().getName();
        boolean own = context.getDisplayName().startsWith(method + "(");
        StringBuilder name = new StringBuilder(own ? "" : context.getDisplayName());
        for (Optional<ExtensionContext> at = context.getParent();
                at.isPresent();
                at = at.get().getParent()) {
            String id = at.get().getUniqueId();
            String last = id.substring(id.lastIndexOf('[') + 1);
            if (last.startsWith("class-template-invocation") || last.startsWith("test-template:")) {
                String above = withoutMark(at.get().getDisplayName());
                if (!above.isEmpty() && !above.startsWith(method + "(")) {
                    name.insert(0, above + (name.length() == 0 ? "" : " › "));
                }
            }
        }
        return name.toString();
    }

    /** Returns a run's name as it is without a counterproof. */
    private static String withoutMark(String name) {
        return name.replaceFirst("^(counterproof|as written)$|, counterproof$", "");
    }

    private static SuiteTest.SuiteAct act(RecordedAct act, Story story) {
        Map<String, Map<String, String>> written = new LinkedHashMap<>();
        for (WrittenValue value : story.written()) {
            if (value.act() == act) {
                String column =
                        value.column().map(Column::name).orElse(value.change().isPresent() ? Seen.ROW : Seen.ONE_MORE);
                written.computeIfAbsent(value.table().name(), table -> new LinkedHashMap<>())
                        .merge(column, seen(value).word(), SuiteRecorder::more);
            }
        }
        List<Change> changes = act.changes();
        return new SuiteTest.SuiteAct(
                line(act.line()),
                List.of(
                        (int) changes.stream()
                                .filter(one -> one.rowBefore().isEmpty())
                                .count(),
                        (int) changes.stream()
                                .filter(one -> one.rowBefore().isPresent()
                                        && one.rowAfter().isPresent())
                                .count(),
                        (int) changes.stream()
                                .filter(one -> one.rowAfter().isEmpty())
                                .count()),
                changes.stream()
                        .limit(MOST_CHANGES)
                        .map(change -> cut(Report.describe(change), LONGEST_TEXT))
                        .toList(),
                written);
    }

    private static String more(String one, String other) {
        return Seen.of(one).or(Seen.of(other)).word();
    }

    private static Seen seen(WrittenValue value) {
        return switch (value.state()) {
            case UNTRIED -> Seen.WRITTEN;
            case UNSEEN -> Seen.UNSEEN;
            case MAYBE_SEEN -> Seen.MAYBE_SEEN;
            case SEEN -> Seen.SEEN;
        };
    }

    private static SuiteTest.SuiteLook look(LookedAt look) {
        return new SuiteTest.SuiteLook(
                line(look.line()),
                cut(look.text(), LONGEST_TEXT),
                look.kind().name().toLowerCase(Locale.ROOT));
    }

    private static SuiteTest.SuiteLoose loose(LooseEnd end) {
        return new SuiteTest.SuiteLoose(
                end.kind().name().toLowerCase(Locale.ROOT), line(end.line()), cut(end.text(), LONGEST_TEXT));
    }

    private static String line(Optional<SourceLine> line) {
        return line.map(SourceLine::toString).orElse("");
    }

    private static String text(Throwable failure) {
        String message = String.valueOf(failure.getMessage());
        return cut(
                failure instanceof AssertionError ? message : failure.getClass().getSimpleName() + ": " + message,
                LONGEST_FAILURE);
    }

    private static String cut(String text, int longest) {
        return text.length() <= longest ? text : text.substring(0, longest - 1) + "…";
    }

    /** Writes down what is known; that it cannot be written is said, and makes no test fail. */
    @Override
    public synchronized void close() {
        if (folder == null) {
            return;
        }
        for (SuiteRun run : List.of(tests, counterproof)) {
            if (!run.tests().isEmpty()) {
                try {
                    SuiteFolder suite = new SuiteFolder(folder);
                    suite.add(run);
                    suite.line(run).ifPresent(System.out::println);
                } catch (IOException | RuntimeException e) {
                    LOG.log(Level.WARNING, "What the tests did could not be written down in {0}: {1}", folder, e);
                }
            }
        }
    }
}
