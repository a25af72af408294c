package dev.zabbet.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import java.io.IOException;
import java.io.InputStream;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Rows with labels, ready to be stored together by {@code Stage.load}. Immutable; every method returns another seed. */
public final class Seed {
    /** The most bytes that a file may have. */
    public static final long MOST_BYTES = 64L * 1024 * 1024;

    private static final long LARGE =
            4L * 1024 * 1024; // bytes; such files are read as they are stored, where that can be

    private static final Seed EMPTY = new Seed(List.of(), List.of(), null, Set.of());

    private final List<SeedRow> rows;
    private final List<StreamedRows> streamedRows;
    private final @Nullable Instant clock;
    private final Set<String> storedTables;

    private Seed(
            List<SeedRow> rows, List<StreamedRows> streamedRows, @Nullable Instant clock, Set<String> storedTables) {
        this.storedTables = Collections.unmodifiableSet(new LinkedHashSet<>(storedTables));
        this.rows = List.copyOf(rows);
        this.streamedRows = List.copyOf(streamedRows);
        this.clock = clock;
    }

    /** {@return a seed without rows} */
    public static Seed empty() {
        return EMPTY;
    }

    /**
     * {@return a seed of these rows}
     *
     * @param rows the rows, in the order in which they stand
     */
    public static Seed of(List<SeedRow> rows) {
        return new Seed(rows, List.of(), null, Set.of());
    }

    /**
     * Reads a seed: a row document in YAML or JSON, or a table in CSV or Markdown whose file is named like the table; of a
     * folder all such files in it. Of several, each overlays those before it.
     *
     * @param first a file, a folder, or a resource on the class path that begins with a slash
     * @param more more of them, each over those before it
     * @return the seed
     * @throws ZabbetException if one is not found or cannot be read; the message gives file, line and column
     */
    public static Seed read(String first, String... more) {
        Seed seed = one(first);
        for (String next : more) {
            seed = seed.and(one(next));
        }
        return seed;
    }

    private static Seed one(String where) {
        Words.notNull(where, "where", "Seed.read");
        Path path = Path.of(where);
        if (Files.isDirectory(path)) {
            return folder(path);
        }
        SeedNotation notation = notation(where);
        return isLarge(path)
                ? notation.readStreamed(path).orElseGet(() -> notation.read(where, text(where)))
                : notation.read(where, text(where));
    }

    private static boolean isLarge(Path path) {
        try {
            return Files.isRegularFile(path) && Files.size(path) > LARGE;
        } catch (IOException e) {
            throw new ZabbetException("'" + path + "' cannot be read: " + e, e);
        }
    }

    private static Seed folder(Path folder) {
        try (var files = Files.list(folder)) {
            Seed seed = EMPTY;
            List<String> names = files.map(Path::toString).sorted().toList();
            for (String name : names) {
                if (known().stream().anyMatch(n -> n.recognises(name))) {
                    seed = seed.and(one(name));
                }
            }
            if (seed.rows.isEmpty() && seed.streamedRows.isEmpty()) {
                throw new ZabbetException("The folder " + folder + " holds no file that can be read:"
                        + " .yaml, .yml, .json, .csv or .md are.");
            }
            return seed;
        } catch (IOException e) {
            throw new ZabbetException("The folder " + folder + " cannot be read: " + e, e);
        }
    }

    private static List<SeedNotation> known() {
        List<SeedNotation> known = new ArrayList<>();
        ServiceLoader.load(SeedNotation.class, Seed.class.getClassLoader()).forEach(known::add);
        return known;
    }

    private static SeedNotation notation(String name) {
        List<SeedNotation> known = known();
        return known.stream()
                .filter(n -> n.recognises(name))
                .findFirst()
                .orElseThrow(() -> new ZabbetException("'" + name + "' is no file that a seed can be read from"
                        + (known.isEmpty()
                                ? "; the module zabbet-files, which reads them, is not on the class path."
                                : ": its name has to end with .yaml, .yml, .json, .csv or .md, or it is a folder of"
                                        + " such files.")));
    }

    /**
     * {@return the text of a file, or of a resource on the class path}
     *
     * @param where a file, or a resource on the class path
     * @throws ZabbetException if it is not found, not UTF-8, or longer than {@link #MOST_BYTES}
     */
    public static String text(String where) {
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(bytes(where)))
                    .toString();
        } catch (CharacterCodingException e) {
            throw new ZabbetException("'" + where + "' is not written in UTF-8.", e);
        }
    }

    /**
     * {@return the bytes of a file}
     *
     * @param where a file, or a resource on the class path
     * @throws ZabbetException if it is not found, or longer than {@link #MOST_BYTES}
     */
    public static byte[] bytes(String where) {
        Path path = Path.of(where);
        try {
            if (Files.isRegularFile(path)) {
                requireSize(where, Files.size(path));
                return Files.readAllBytes(path);
            }
            String resource = where.startsWith("/") ? where.substring(1) : where;
            ClassLoader loader = Optional.ofNullable(Thread.currentThread().getContextClassLoader())
                    .orElse(Seed.class.getClassLoader());
            try (InputStream in = loader.getResourceAsStream(resource)) {
                if (in == null) {
                    throw new ZabbetException("'" + where + "' is neither a file here (in "
                            + Path.of("").toAbsolutePath() + ") nor a resource on the class path.");
                }
                byte[] bytes = in.readNBytes((int) MOST_BYTES + 1);
                requireSize(where, bytes.length);
                return bytes;
            }
        } catch (IOException e) {
            throw new ZabbetException("'" + where + "' cannot be read: " + e, e);
        }
    }

    private static void requireSize(String where, long bytes) {
        if (bytes > MOST_BYTES) {
            throw new ZabbetException("'" + where + "' has " + (bytes >> 20) + " MB, and a seed at most "
                    + (MOST_BYTES >> 20) + ". Split it into several files.");
        }
    }

    /**
     * Stands for the key of a labelled row, as a value of a row.
     *
     * @param label the row's label
     * @return a value for the referring column
     */
    public static SeedValue ref(String label) {
        return new SeedValue.RowRef(Words.notNull(label, "label", "Seed.ref"));
    }

    /**
     * {@return this seed with one row more}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param values the columns' values
     */
    public Seed with(String table, Row values) {
        return plus(new SeedRow(table, Optional.empty(), values, 1, SourceLocation.NONE, Map.of()));
    }

    /**
     * {@return this seed with one row more, that others may refer to}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param label unique in the table
     * @param values the columns' values
     */
    public Seed with(String table, String label, Row values) {
        return plus(new SeedRow(
                table,
                Optional.of(Words.notNull(label, "label", "Seed.with")),
                values,
                1,
                SourceLocation.NONE,
                Map.of()));
    }

    /**
     * {@return this seed with a number of equal rows added}
     *
     * @param times how many such rows, at least 1
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param values the columns' values
     */
    public Seed repeat(int times, String table, Row values) {
        if (times < 1) {
            throw new ZabbetException("repeat(" + times + ", …): at least 1 is needed.");
        }
        return plus(new SeedRow(table, Optional.empty(), values, times, SourceLocation.NONE, Map.of()));
    }

    private Seed plus(SeedRow row) {
        List<SeedRow> more = new ArrayList<>(rows);
        more.add(row);
        return new Seed(more, streamedRows, clock, storedTables);
    }

    /**
     * {@return this seed with another clock, from which relative times are counted; without one it is the stage's}
     *
     * @param other the time that relative times count from
     */
    public Seed withClock(@Nullable Instant other) {
        return new Seed(rows, streamedRows, other, storedTables);
    }

    /**
     * {@return this seed overlaid by another: a labelled row that both have gets the other's columns over its own, all else
     * is added, and the other's clock counts if it has one}
     *
     * @param over the seed whose rows come on top
     */
    public Seed and(Seed over) {
        Map<String, Integer> places = new LinkedHashMap<>();
        List<SeedRow> all = new ArrayList<>(rows);
        for (int i = 0; i < all.size(); i++) {
            if (all.get(i).label().isPresent()) {
                places.put(all.get(i).table() + "\n" + all.get(i).label().get(), i);
            }
        }
        for (SeedRow row : over.rows) {
            Integer at = row.label().isPresent()
                    ? places.get(row.table() + "\n" + row.label().get())
                    : null;
            if (at == null) {
                all.add(row);
            } else {
                all.set(at, overlaid(all.get(at), row));
            }
        }
        List<StreamedRows> more = new ArrayList<>(streamedRows);
        more.addAll(over.streamedRows);
        Set<String> stored = new LinkedHashSet<>(storedTables);
        stored.addAll(over.storedTables);
        return new Seed(all, more, over.clock == null ? clock : over.clock, stored);
    }

    private static SeedRow overlaid(SeedRow base, SeedRow over) {
        Map<String, @Nullable Object> values = base.values().asMap();
        values.putAll(over.values().asMap());
        Map<String, SourceLocation> places = new LinkedHashMap<>(base.places());
        places.putAll(over.places());
        return new SeedRow(base.table(), base.label(), Row.of(values), 1, base.place(), places);
    }

    /**
     * {@return a seed of very many plain rows}
     *
     * @param rows where the rows come from, read when they are stored
     */
    public static Seed ofStreamed(StreamedRows rows) {
        return new Seed(List.of(), List.of(Words.notNull(rows, "rows", "Seed.ofStreamed")), null, Set.of());
    }

    /**
     * {@return this seed, with tables whose rows may be there already: a row with a unique key that is taken is not stored, and what
     * refers to its label refers to the stored row}
     *
     * @param tables the tables' names
     */
    public Seed usingStored(String... tables) {
        Set<String> all = new LinkedHashSet<>(storedTables);
        all.addAll(List.of(tables));
        return new Seed(rows, streamedRows, clock, all);
    }

    /** {@return the tables whose rows may be there already, by name as it was written} */
    public Set<String> storedTables() {
        return storedTables;
    }

    /**
     * Stands for the key of a row that has to be stored already, as a value of a row.
     *
     * @param key the columns of a unique key of the table that is referred to, with their values
     * @return a value for the referring column
     */
    public static SeedValue stored(Row key) {
        return new SeedValue.Stored(Words.notNull(key, "key", "Seed.stored"));
    }

    /** {@return the rows that are read only when they are needed, from large files} */
    public List<StreamedRows> streamedRows() {
        return streamedRows;
    }

    /** {@return the rows, without those of {@link #streamedRows}} */
    public List<SeedRow> rows() {
        return rows;
    }

    /** {@return the clock from which relative times are counted, if the seed says one} */
    public Optional<Instant> clock() {
        return Optional.ofNullable(clock);
    }

    @Override
    public String toString() {
        return "Seed of " + Words.count(rows.size(), "row");
    }
}
