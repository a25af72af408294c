package dev.zabbet.cli;

import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.row.Row;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** How a command says what it did: for people, or as JSON for programs. */
final class OutputOptions {
    @Option(names = "--json", description = "Prints the result as JSON, for programs.")
    private boolean json;

    boolean isJson() {
        return json;
    }

    /** Returns what became of the rows, as a key in JSON. */
    static String outcome(boolean dryRun, boolean written) {
        if (dryRun) {
            return "wouldBeStored";
        }
        if (written) {
            return "written";
        }
        return "stored";
    }

    /** Returns what became of the rows, as a heading. */
    static String heading(boolean dryRun, @Nullable Path written) {
        if (dryRun) {
            return "Would be stored; nothing was";
        }
        if (written != null) {
            return "Written to " + written + "; nothing was stored";
        }
        return "Stored";
    }

    static String json(Map<String, ?> result) {
        return JsonTree.write(result);
    }

    /** Returns a row as JSON has it: numbers, truth values, lists and null, all else as text. */
    static Map<String, @Nullable Object> of(Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        row.columns().forEach(column -> values.put(column, of(row.get(column))));
        return values;
    }

    private static @Nullable Object of(@Nullable Object value) {
        if (value instanceof byte[] bytes) {
            return "0x" + HexFormat.of().formatHex(bytes);
        }
        if (value instanceof List<?> list) {
            return list.stream().map(OutputOptions::of).toList();
        }
        if (value == null || value instanceof Boolean || (value instanceof Number && !(value instanceof BigDecimal))) {
            return value;
        }
        return value.toString();
    }
}
