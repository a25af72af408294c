package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.MaskedColumn;
import dev.zabbet.extract.Masking;
import dev.zabbet.extract.SeedTarget;
import dev.zabbet.files.ExtractFiles;
import dev.zabbet.files.RowDocument;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Extracts;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Takes a referentially closed part of a database as a seed. */
@Command(
        name = "extract",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Takes some rows of a database and all rows that they refer to, as a row document, CSV or SQL, or into another"
                    + " database. The database is only read. What looks personal is replaced by other values of the same shape.",
            "",
            "Example: zabbet extract guest=10 --below stay_guest --without '*.booked_at' --out seeds/guests.yaml",
            "Example: zabbet extract stay=20 --order stay=-arrives --where stay status=CANCELLED --into jdbc:h2:./huts",
            ""
        })
final class ExtractCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final ExtractAsked asked = new ExtractAsked();

    @Mixin
    private final MaskingOptions masked = new MaskingOptions();

    @Option(
            names = "--out",
            paramLabel = "PATH",
            description =
                    "Writes a row document (.yaml), SQL (.sql), or into a folder; without it, the document is printed.")
    private @Nullable Path out;

    @Option(names = "--csv", description = "Writes CSV into the folder of --out.")
    private boolean csv;

    @Option(
            names = "--into",
            paramLabel = "URL",
            description = "Loads the rows into a database that is dedicated to tests.")
    private @Nullable String into;

    @Option(
            names = "--use-stored",
            paramLabel = "TABLE",
            split = ",",
            description =
                    "When the rows are loaded, those of this table that are there already are referred to, not stored.")
    private List<String> useStored = new ArrayList<>();

    @Option(
            names = "--longest",
            paramLabel = "N",
            description = "Values of more characters or bytes get files of their own beside the document.")
    private @Nullable Integer longest;

    @Option(names = "--report", description = "Tells of every column whether it was masked, and why.")
    private boolean report;

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    /** Where the rows go. */
    private record Way(ExtractTarget target, Optional<Path> file) {}

    @Override
    public void run() {
        requireSense();
        DataSource from = database.dataSource();
        Extract extract = masked.over(asked.extract(from));
        Masking masking = masked.masking(line -> spec.commandLine().getErr().println("zabbet: " + line));
        Way way = way();
        ExtractSummary summary = Extracts.take(from, extract, masking, way.target());
        Loaded loaded = null;
        if (way.target() instanceof SeedTarget seeds) {
            Seed seed = seeds.seed().usingStored(useStored.toArray(String[]::new));
            if (into == null) {
                spec.commandLine().getOut().print(RowDocument.write(seed));
                spec.commandLine().getOut().flush();
            } else {
                loaded = load(into, seed);
            }
        }
        if (output.isJson()) {
            new Terminal(spec.commandLine().getOut()).line(OutputOptions.json(json(summary)));
            return;
        }
        boolean printed = into == null && way.file().isEmpty();
        ExtractReport paper = new ExtractReport(
                new Terminal(
                        printed
                                ? spec.commandLine().getErr()
                                : spec.commandLine().getOut()),
                summary,
                masking);
        paper.summary();
        paper.masking(report);
        if (loaded != null) {
            paper.loaded(loaded);
        }
        way.file().ifPresent(file -> paper.written(file, longest != null));
    }

    private void requireSense() {
        if (into != null && (out != null || csv || longest != null)) {
            throw new ZabbetException("--into stores the rows. Leave out --out, --csv and --longest.");
        }
        if (csv && out == null) {
            throw new ZabbetException("--csv writes files. Name their folder by --out.");
        }
        if (longest != null && longest < 1) {
            throw new ZabbetException("--longest takes a number from 1; it was " + longest + ".");
        }
        boolean sql = out != null && suffix(out).equals("sql");
        if ((csv || sql) && (longest != null || !useStored.isEmpty())) {
            throw new ZabbetException(
                    "--longest and --use-stored belong to a row document; this writes " + (csv ? "CSV." : "SQL."));
        }
        if (longest != null && out == null) {
            throw new ZabbetException("--longest writes files beside a document. Name that by --out.");
        }
        if (output.isJson() && out == null && into == null) {
            throw new ZabbetException(
                    "--json prints the summary, and without --out the document is printed. Name a file by --out.");
        }
    }

    private static String suffix(Path file) {
        String name = String.valueOf(file.getFileName()).toLowerCase(Locale.ROOT);
        return name.substring(name.lastIndexOf('.') + 1);
    }

    private Way way() {
        Path to = out;
        if (to == null) {
            return new Way(new SeedTarget(), Optional.empty());
        }
        if (csv) {
            return new Way(ExtractFiles.csv(to), Optional.of(to));
        }
        boolean folder =
                Files.isDirectory(to) || !String.valueOf(to.getFileName()).contains(".");
        if (folder) {
            to = to.resolve("extract.yaml");
        }
        return switch (suffix(to)) {
            case "sql" -> new Way(Extracts.sql(to), Optional.of(to));
            case "yaml", "yml" ->
                new Way(
                        ExtractFiles.document(
                                to, longest == null ? Integer.MAX_VALUE : longest, useStored.toArray(String[]::new)),
                        Optional.of(to));
            default ->
                throw new ZabbetException("'" + to
                        + "' is no file that an extract is written to: name a .yaml or .sql file, or a" + " folder.");
        };
    }

    private Loaded load(String url, Seed seed) {
        DataSource target = Jdbc.dataSource(
                url,
                Optional.ofNullable(System.getenv("ZABBET_USER")).orElse(""),
                Optional.ofNullable(System.getenv("ZABBET_PASSWORD")).orElse(""));
        try (Stage stage = Jdbc.stage(target)) {
            return stage.load(seed);
        }
    }

    private static Map<String, Object> json(ExtractSummary summary) {
        Map<String, Object> result = new LinkedHashMap<>();
        result.put("database", summary.database());
        result.put("rows", summary.tables());
        result.put("reasons", summary.reasons());
        List<Map<String, Object>> columns = new ArrayList<>();
        for (MaskedColumn column : summary.columns()) {
            Map<String, Object> one = new LinkedHashMap<>();
            one.put("column", column.name());
            one.put("masked", column.isMasked());
            one.put("kind", column.kind());
            one.put("why", column.why());
            one.put("values", column.values());
            one.put("examples", column.examples());
            columns.add(one);
        }
        result.put("columns", columns);
        result.put("notes", summary.notes());
        return result;
    }

    /** Returns a count with its word. */
    static String rows(long count) {
        return Words.count(count, "row");
    }
}
