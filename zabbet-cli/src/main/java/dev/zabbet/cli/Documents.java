package dev.zabbet.cli;

import dev.zabbet.files.RowDocument;
import dev.zabbet.seed.Seed;
import java.util.List;
import java.util.Locale;

/** The files that a command was given: what they hold to store, and what they expect. */
final class Documents {
    private Documents() {}

    /** Reads all that there is to store; of several files each overlays those before it. */
    static Seed seed(List<String> files) {
        return Seed.read(files.get(0), files.subList(1, files.size()).toArray(String[]::new));
    }

    /** Reads the expectations of all row documents among the files. */
    static RowDocument expectations(List<String> files) {
        RowDocument all = RowDocument.of("nothing", "");
        for (String file : files) {
            if (isDocument(file)) {
                all = all.and(RowDocument.read(file));
            }
        }
        return all;
    }

    private static boolean isDocument(String file) {
        String lower = file.toLowerCase(Locale.ROOT);
        return lower.endsWith(".yaml") || lower.endsWith(".yml") || lower.endsWith(".json");
    }

    /** Has expectations that do not hold rewritten, in this process. */
    static void rewrite(boolean wanted) {
        if (wanted) {
            System.setProperty("zabbet.rewriteExpected", "true");
        }
    }
}
