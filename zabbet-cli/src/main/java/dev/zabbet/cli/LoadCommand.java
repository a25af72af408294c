package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.serve.HttpApi;
import dev.zabbet.store.Load;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Stores row documents. */
@Command(
        name = "load",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Stores the rows of row documents (YAML or JSON), tables in CSV or Markdown, or folders of these, in one"
                    + " transaction: all of them or none. Of several files each overlays those before it. Columns left out are"
                    + " filled, with the parents that are needed.",
            "",
            "Example: zabbet load --db jdbc:postgresql://localhost/huts_test seeds/huts.yaml",
            ""
        })
final class LoadCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Parameters(arity = "1..*", paramLabel = "FILE", description = "Files or folders.")
    private List<String> files = new ArrayList<>();

    @Option(
            names = "--variation",
            paramLabel = "V",
            description = "The number that all invented values follow from; another gives other rows. Without it, 0.")
    private @Nullable Long variation;

    @Option(
            names = "--out",
            paramLabel = "FILE",
            description = "Stores nothing; writes the rows to a file as SQL for this kind of database.")
    private @Nullable Path out;

    @Option(names = "--dry-run", description = "Stores nothing; says how many rows of which table it would be.")
    private boolean dryRun;

    @Option(
            names = "--through",
            paramLabel = "FILE",
            description =
                    "Has the application store the rows, by its HTTP API. The file names its OpenAPI document and says what that"
                            + " does not.")
    private @Nullable String through;

    @Option(
            names = "--at",
            paramLabel = "URL",
            description = "Where the application is, if the --through file is to be overruled.")
    private @Nullable String at;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        HttpApi api = api();
        Seed seed = Documents.seed(files);
        boolean reads = dryRun || out != null;
        try (Stage opened = reads ? Jdbc.reading(database.dataSource()) : Jdbc.stage(database.dataSource())) {
            Stage stage = opened.inVariation(variation == null ? 0 : variation);
            Map<String, Map<String, @Nullable Object>> keys = new LinkedHashMap<>();
            List<Loaded> results = new ArrayList<>();
            Map<String, Integer> counts = stored(stage, seed, api, keys, results);
            if (output.isJson()) {
                Map<String, Object> result = new LinkedHashMap<>();
                result.put(api == null ? OutputOptions.outcome(dryRun, out != null) : "delivered", counts);
                if (!reads) {
                    result.put("labels", keys);
                    if (!seed.storedTables().isEmpty()) {
                        result.put("found", found(results));
                    }
                }
                new Terminal(spec.commandLine().getOut()).line(OutputOptions.json(result));
                return;
            }
            Terminal paper = new Terminal(spec.commandLine().getOut());
            print(paper, api == null ? OutputOptions.heading(dryRun, out) : "Created by the application", seed, counts);
            if (api != null && !api.leftOut().isEmpty()) {
                paper.blank();
                paper.line("Not taken by its API, so that it filled them itself: " + String.join(", ", api.leftOut()));
            }
            results.forEach(loaded -> ExtractReport.found(paper, loaded));
        }
    }

    private @Nullable HttpApi api() {
        String file = through;
        String url = at;
        if (file == null) {
            if (url != null) {
                throw new ZabbetException(
                        "--at says where the application is that --through delivers to; name that file, too.");
            }
            return null;
        }
        if (dryRun || out != null) {
            throw new ZabbetException("--through has the application store the rows; leave out --dry-run and --out.");
        }
        HttpApi api = HttpApi.read(file);
        return url == null ? api : api.at(url);
    }

    /**
     * Stores the rows, unless they are only counted or written to a file.
     *
     * @param keys takes the keys of labelled rows that were stored, by table and label
     * @param results takes what the rows became, if they were stored
     */
    private Map<String, Integer> stored(
            Stage stage,
            Seed seed,
            @Nullable HttpApi api,
            Map<String, Map<String, @Nullable Object>> keys,
            List<Loaded> results) {
        Path file = out;
        if (dryRun) {
            return stage.validate(seed);
        }
        if (file != null) {
            Load rows = stage.planned(seed);
            OutFile.write(file, stage, rows);
            return rows.counts();
        }
        try (LoadProgress work = LoadProgress.on(spec.commandLine().getErr())) {
            Loaded loaded = api == null ? stage.load(seed, work) : stage.deliver(seed, api);
            results.add(loaded);
            loaded.labelled().forEach((table, rows) -> {
                List<String> columns = stage.schema().require(table).keyColumns();
                Map<String, @Nullable Object> ofTable = keys.computeIfAbsent(table, t -> new LinkedHashMap<>());
                rows.forEach((label, row) -> ofTable.put(label, key(columns, row)));
            });
            return loaded.counts();
        }
    }

    /** Returns the rows that were there already, as JSON has them. */
    private static List<Map<String, Object>> found(List<Loaded> results) {
        List<Map<String, Object>> all = new ArrayList<>();
        results.forEach(loaded -> loaded.found().forEach(row -> {
            Map<String, Object> one = new LinkedHashMap<>();
            one.put("table", row.table());
            one.put("label", row.label());
            one.put("differences", row.differences());
            all.add(one);
        }));
        return all;
    }

    /** Returns the key as it is, if it is one column, otherwise by columns. */
    private static @Nullable Object key(List<String> columns, Row row) {
        Map<String, @Nullable Object> values = RowsAsJson.of(row);
        values.keySet().retainAll(columns);
        return columns.size() == 1 ? values.get(columns.get(0)) : values;
    }

    /** Prints how many rows of which table there are, and what came along. */
    static void print(Terminal paper, String heading, Seed seed, Map<String, Integer> counts) {
        Map<String, Integer> asked = new LinkedHashMap<>();
        Map<String, List<String>> labels = new LinkedHashMap<>();
        for (SeedRow row : seed.rows()) {
            asked.merge(row.table(), row.times(), Integer::sum);
            row.label().ifPresent(label -> labels.computeIfAbsent(row.table(), t -> new ArrayList<>())
                    .add(label));
        }
        seed.streamedRows().forEach(rows -> asked.put(rows.table(), Integer.MAX_VALUE));
        paper.heading(heading);
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("table", "rows", ""));
        counts.forEach((table, rows) -> {
            int along = rows - asked.getOrDefault(table, 0);
            List<String> told = new ArrayList<>();
            if (along > 0) {
                told.add(along == rows ? "came along" : along + " of them came along");
            }
            if (labels.containsKey(table)) {
                told.add("labelled " + Words.cut(String.join(", ", labels.get(table)), 60));
            }
            grid.add(List.of(table, String.valueOf(rows), String.join("; ", told)));
        });
        paper.grid("  ", grid, false, true);
    }
}
