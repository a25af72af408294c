package dev.zabbet.files;

import dev.zabbet.Expectations;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.internal.DefaultFactories;
import dev.zabbet.files.internal.DocumentExpectation;
import dev.zabbet.files.internal.DocumentReader;
import dev.zabbet.files.internal.DocumentWriter;
import dev.zabbet.files.internal.ParsedDocument;
import dev.zabbet.files.internal.Rewriting;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A row document: rows to store, what should be stored, and what should have changed, in YAML 1.2 or JSON. Its structure is
 * described by the JSON Schema {@code row-document.schema.json} beside this class. Immutable and thread-safe.
 */
public final class RowDocument implements Expectations {
    private final ParsedDocument parsed;
    private final List<String> files;

    private RowDocument(ParsedDocument parsed, List<String> files) {
        this.parsed = parsed;
        this.files = List.copyOf(files);
    }

    /**
     * Reads a document.
     *
     * @param file a file, or a resource on the class path
     * @return the document
     * @throws dev.zabbet.error.ZabbetException if it is not found or cannot be read; the message gives all that is wrong, each
     *     with file, line and column
     */
    public static RowDocument read(String file) {
        Words.notNull(file, "file", "RowDocument.read");
        return new RowDocument(DocumentReader.read(file, Seed.text(file)), List.of(file));
    }

    /**
     * Reads a document that is given as text.
     *
     * @param name what to call it in messages
     * @param text the document's text
     * @return the document
     */
    public static RowDocument of(String name, String text) {
        return new RowDocument(DocumentReader.read(name, text), List.of());
    }

    /**
     * Writes a seed as a row document in YAML; read again, it is the same rows, table by table.
     *
     * @param seed the rows
     * @return the document's text
     * @throws dev.zabbet.error.ZabbetException if a table has rows with labels and others without
     */
    public static String write(Seed seed) {
        return DocumentWriter.yaml(Words.notNull(seed, "seed", "RowDocument.write"));
    }

    /** {@return the rows to store} */
    public Seed seed() {
        return parsed.seed();
    }

    /**
     * {@return a factory for each table of which the document has {@code defaults}, by the table's name as it stands there} They make
     * rows of any number with those values: {@code {nights: 2, status: {inTurn: [REQUESTED, CONFIRMED]}, guest_name: {invent:
     * personName}}}. Times count from the document's clock, or {@link Stage#START}.
     *
     * @throws dev.zabbet.error.ZabbetException if a default is none that a factory can have: a labelled row, a stored one, a file
     */
    public Map<String, Factory<Row>> factories() {
        return DefaultFactories.of(
                files.isEmpty() ? "" : files.get(0) + ": ",
                parsed.defaults(),
                parsed.seed().clock().orElse(Stage.START));
    }

    private Map<String, Row> defaults(RowDocument over) {
        Map<String, Row> all = new LinkedHashMap<>(parsed.defaults());
        over.parsed
                .defaults()
                .forEach((table, columns) -> all.merge(table, columns, (under, upper) -> {
                    Row both = under;
                    for (String column : upper.columns()) {
                        both = both.with(column, upper.get(column));
                    }
                    return both;
                }));
        return all;
    }

    /** {@return whether it says what should be stored} */
    public boolean expectsStored() {
        return !parsed.stored().isEmpty();
    }

    /** {@return whether it says what should have changed} */
    public boolean expectsChanged() {
        return !parsed.footprint().equals(DocumentExpectation.OfFootprint.NONE);
    }

    /** {@return how many expectations there are of what should be stored} */
    public int size() {
        return parsed.stored().size();
    }

    /**
     * {@return this document overlaid by another: as {@link Seed#and}, with the expectations of both}
     *
     * @param over the document whose expectations come on top
     */
    public RowDocument and(RowDocument over) {
        List<DocumentExpectation.OfTable> both = new ArrayList<>(parsed.stored());
        both.addAll(over.parsed.stored());
        List<String> all = new ArrayList<>(files);
        all.addAll(over.files);
        return new RowDocument(
                new ParsedDocument(
                        parsed.seed().and(over.parsed.seed()),
                        both,
                        parsed.footprint().and(over.parsed.footprint()),
                        defaults(over)),
                all);
    }

    /**
     * Expects what should be stored. With {@code -Dzabbet.rewriteExpected=true} a file whose expectations do not hold is
     * rewritten from what is stored: comments, order and what holds stay as they are.
     *
     * @throws AssertionError if one does not hold
     */
    @Override
    public void expectStored(Stage stage) {
        Optional<Instant> clock = parsed.seed().clock();
        try {
            DocumentExpectation.checkStored(stage, clock, parsed.stored());
        } catch (AssertionError e) {
            if (!Rewriting.isWanted(files)) {
                throw e;
            }
            files.forEach(file -> Rewriting.stored(file, stage, clock));
            for (String file : files) {
                DocumentExpectation.checkStored(
                        stage, clock, Rewriting.read(file).stored());
            }
        }
    }

    /** Expects what should have changed; rewrites as {@link #expectStored} does. */
    @Override
    public void expectChanged(Stage stage, Footprint changes) {
        Optional<Instant> clock = parsed.seed().clock();
        try {
            DocumentExpectation.checkChanged(stage, clock, parsed.footprint(), changes);
        } catch (AssertionError e) {
            if (!Rewriting.isWanted(files) || files.size() > 1) {
                throw e; // of several files, which one should name what none does is not known
            }
            Rewriting.changed(files.get(0), stage, clock, changes);
            DocumentExpectation.checkChanged(
                    stage, clock, Rewriting.read(files.get(0)).footprint(), changes);
        }
    }
}
