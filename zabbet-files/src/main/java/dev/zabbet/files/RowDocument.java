package dev.zabbet.files;

import dev.zabbet.Expectations;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.internal.text.Words;
import dev.zabbet.seed.Seed;
import java.util.ArrayList;
import java.util.List;

/**
 * A row document: rows to store, what should be stored, and what should have changed, in YAML 1.2 or JSON. Its structure is
 * described by the JSON Schema {@code row-document.schema.json} beside this class. Immutable and thread-safe.
 */
public final class RowDocument implements Expectations {
    private final Seed seed;
    private final List<DocumentExpectation.OfTable> stored;
    private final DocumentExpectation.OfFootprint footprint;
    private final List<String> files;

    RowDocument(Seed seed, List<DocumentExpectation.OfTable> stored, DocumentExpectation.OfFootprint footprint) {
        this(seed, stored, footprint, List.of());
    }

    private RowDocument(
            Seed seed,
            List<DocumentExpectation.OfTable> stored,
            DocumentExpectation.OfFootprint footprint,
            List<String> files) {
        this.files = List.copyOf(files);
        this.seed = seed;
        this.stored = List.copyOf(stored);
        this.footprint = footprint;
    }

    /**
     * Reads a document.
     *
     * @param file a file, or a resource on the class path
     * @throws dev.zabbet.error.ZabbetException if it is not found or cannot be read; the message gives all that is wrong, each
     *     with file, line and column
     */
    public static RowDocument read(String file) {
        Words.notNull(file, "file", "RowDocument.read");
        RowDocument read = DocumentReader.read(file, Seed.text(file));
        return new RowDocument(read.seed, read.stored, read.footprint, List.of(file));
    }

    /**
     * Reads a document that is given as text.
     *
     * @param name what to call it in messages
     */
    public static RowDocument of(String name, String text) {
        return DocumentReader.read(name, text);
    }

    /**
     * Writes a seed as a row document in YAML; read again, it is the same rows, table by table.
     *
     * @throws dev.zabbet.error.ZabbetException if a table has rows with labels and others without
     */
    public static String write(Seed seed) {
        return DocumentWriter.yaml(Words.notNull(seed, "seed", "RowDocument.write"));
    }

    /** Returns the rows to store. */
    public Seed seed() {
        return seed;
    }

    /** Tells whether it says what should be stored. */
    public boolean expectsStored() {
        return !stored.isEmpty();
    }

    /** Tells whether it says what should have changed. */
    public boolean expectsChanged() {
        return !footprint.equals(DocumentExpectation.OfFootprint.NONE);
    }

    /** Returns how many expectations there are of what should be stored. */
    public int size() {
        return stored.size();
    }

    /** Returns this document overlaid by another: as {@link Seed#and}, with the expectations of both. */
    public RowDocument and(RowDocument over) {
        List<DocumentExpectation.OfTable> both = new ArrayList<>(stored);
        both.addAll(over.stored);
        List<DocumentExpectation.OfChanges> changes = new ArrayList<>(footprint.tables());
        changes.addAll(over.footprint.tables());
        List<String> ignoring = new ArrayList<>(footprint.ignoring());
        ignoring.addAll(over.footprint.ignoring());
        List<String> all = new ArrayList<>(files);
        all.addAll(over.files);
        return new RowDocument(
                seed.and(over.seed),
                both,
                new DocumentExpectation.OfFootprint(
                        changes,
                        ignoring,
                        footprint.nothingElse() || over.footprint.nothingElse(),
                        footprint.unchanged() || over.footprint.unchanged(),
                        footprint.strictly() || over.footprint.strictly()),
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
        try {
            DocumentExpectation.checkStored(stage, seed.clock(), stored);
        } catch (AssertionError e) {
            if (!Rewriting.isWanted(files)) {
                throw e;
            }
            files.forEach(file -> Rewriting.stored(file, stage, seed.clock()));
            for (String file : files) {
                RowDocument again = Rewriting.read(file);
                DocumentExpectation.checkStored(stage, seed.clock(), again.stored);
            }
        }
    }

    /** Expects what should have changed; rewrites as {@link #expectStored} does. */
    @Override
    public void expectChanged(Stage stage, Footprint changes) {
        try {
            DocumentExpectation.checkChanged(stage, seed.clock(), footprint, changes);
        } catch (AssertionError e) {
            if (!Rewriting.isWanted(files) || files.size() > 1) {
                throw e; // of several files, which one should name what none does is not known
            }
            Rewriting.changed(files.get(0), stage, seed.clock(), changes);
            DocumentExpectation.checkChanged(stage, seed.clock(), Rewriting.read(files.get(0)).footprint, changes);
        }
    }

    List<DocumentExpectation.OfTable> stored() {
        return stored;
    }

    DocumentExpectation.OfFootprint footprint() {
        return footprint;
    }
}
