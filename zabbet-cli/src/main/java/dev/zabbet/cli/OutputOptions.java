package dev.zabbet.cli;

import dev.zabbet.files.internal.JsonTree;
import java.nio.file.Path;
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
}
