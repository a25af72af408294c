package dev.zabbet.cli;

import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.MaskedColumn;
import dev.zabbet.extract.Masking;
import dev.zabbet.internal.text.Words;
import dev.zabbet.seed.Loaded;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;

/** Tells what an extract took, what was masked, and where it went. */
final class ExtractReport {
    private final Terminal paper;
    private final ExtractSummary summary;
    private final Masking masking;

    ExtractReport(Terminal paper, ExtractSummary summary, Masking masking) {
        this.paper = paper;
        this.summary = summary;
        this.masking = masking;
    }

    void summary() {
        paper.heading(Words.count(summary.rows(), "row") + " of "
                + Words.count(summary.tables().size(), "table") + " from " + summary.database());
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("table", "rows", "why"));
        summary.tables().forEach((table, rows) -> {
            List<String> why = new ArrayList<>();
            var reasons = summary.reasons().getOrDefault(table, java.util.Map.of());
            reasons.forEach((reason, count) -> why.add(reasons.size() == 1 ? reason : count + " " + reason));
            grid.add(List.of(table, String.valueOf(rows), String.join("; ", why)));
        });
        paper.grid("  ", grid, false, true);
        summary.notes().forEach(note -> paper.line("Note: " + note));
        paper.blank();
    }

    /** @param all whether columns that were kept are told as well */
    void masking(boolean all) {
        if (masking.isOff()) {
            paper.heading("Nothing was masked, as --unmasked says");
            paper.blank();
            return;
        }
        List<MaskedColumn> masked =
                summary.columns().stream().filter(MaskedColumn::isMasked).toList();
        paper.heading(Words.count(masked.size(), "column") + " of "
                + summary.columns().size() + " masked" + (all ? "" : "; --report tells of all"));
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("column", all ? "masked as" : "as", "why", "values", "now, for example"));
        for (MaskedColumn column : all ? summary.columns() : masked) {
            grid.add(List.of(
                    column.name(),
                    column.isMasked() ? column.kind() : "kept",
                    column.why(),
                    String.valueOf(column.values()),
                    Words.cut(String.join(", ", column.examples()), 60)));
        }
        if (grid.size() > 1) {
            paper.grid("  ", grid, false, false, false, true);
        }
        paper.blank();
    }

    void loaded(Loaded loaded) {
        long stored =
                loaded.counts().values().stream().mapToLong(Integer::longValue).sum();
        paper.line(ExtractCommand.rows(stored) + " stored.");
        found(paper, loaded);
    }

    /** Tells which rows were there already. */
    static void found(Terminal paper, Loaded loaded) {
        if (loaded.found().isEmpty()) {
            return;
        }
        paper.line(ExtractCommand.rows(loaded.found().size()) + " were there already and are referred to:");
        for (Loaded.Found row : loaded.found()) {
            String name = row.label().isEmpty() ? row.key().toString() : row.label();
            String differences =
                    row.differences().isEmpty() ? "" : ", but " + Words.cut(String.join(", ", row.differences()), 200);
            paper.line("  " + row.table() + " " + name + differences);
        }
    }

    void written(Path file, boolean longValues) {
        paper.line("Written to " + file + (longValues ? ", long values beside it" : "") + ".");
        String name = file.toString();
        paper.line(
                name.endsWith(".sql")
                        ? "Its keys are those of the database: run it on an empty one of the same kind."
                        : "Load it: zabbet load " + file);
    }
}
