package dev.zabbet.files.internal;

import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.ExtractedRow;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.type.Kind;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Writes an extract as a row document, row by row. */
public final class DocumentTarget implements ExtractTarget {
    private final Path file;
    private final Path values;
    private final int longest;
    private final Set<String> usedTables;
    private final WholeFiles files = new WholeFiles();
    private @Nullable Table table;
    private long ordinal;
    private final Set<String> names = new HashSet<>(); // without case, as some file systems have them

    public DocumentTarget(Path file, int longest, Set<String> usedTables) {
        this.file = file;
        this.longest = longest;
        this.usedTables = usedTables;
        String name = String.valueOf(file.getFileName());
        int dot = name.lastIndexOf('.');
        this.values = file.resolveSibling((dot > 0 ? name.substring(0, dot) : name) + "-values");
    }

    @Override
    public boolean wantsLabels() {
        return true;
    }

    @Override
    public void begin(Schema schema, List<Table> tables) {
        List<String> used = usedTables.stream()
                .map(name -> schema.require(name).name())
                .sorted()
                .toList();
        files.begin(file);
        files.append(DocumentWriter.use(used));
        files.append(tables.isEmpty() ? "tables: {}\n" : "tables:\n");
    }

    @Override
    public void row(ExtractedRow row) {
        if (table == null || !table.equals(row.table())) {
            table = row.table();
            ordinal = 0;
            files.append(DocumentWriter.table(row.table().name()));
        }
        ordinal++;
        files.append(DocumentWriter.line(
                withDocuments(row.table(), withoutLongValues(row.seed().orElseThrow()))));
    }

    private SeedRow withoutLongValues(SeedRow row) {
        Map<String, @Nullable Object> all = new LinkedHashMap<>();
        row.values().columns().forEach(column -> {
            Object value = row.values().get(column);
            byte[] content = longContent(value);
            if (content == null) {
                all.put(column, value);
                return;
            }
            String plain = (row.table() + "-" + row.label().orElse(String.valueOf(ordinal)) + "-" + column)
                    .replaceAll("[^\\p{L}\\p{N}._-]", "_");
            String end = value instanceof byte[] ? ".bin" : ".txt";
            String name = names.add(plain.toLowerCase(Locale.ROOT)) ? plain + end : plain + "-" + ordinal + end;
            files.write(values, name, content);
            all.put(column, new SeedValue.InFile(values.getFileName() + "/" + name));
        });
        return new SeedRow(row.table(), row.label(), Row.of(all), row.times(), row.place(), row.places());
    }

    /** Documents are written out, so that a change in one is a change of a few words; labels stand where keys stood. */
    private static SeedRow withDocuments(Table table, SeedRow row) {
        Map<String, @Nullable Object> all = new LinkedHashMap<>();
        Map<String, @Nullable Object> values = row.values().asMap();
        values.forEach((name, value) -> {
            if (table.column(name).isPresent()) {
                all.put(name, writtenOut(table, name, value));
            }
        });
        values.forEach((name, value) -> {
            if (table.column(name).isEmpty()) {
                RowPart place = RowPart.of(table, name);
                if (all.get(place.column().name()) instanceof SeedValue.Nested whole
                        && !DocumentWriter.looksWorkedOut(whole.value())) {
                    Object document = DocumentPlaces.with(whole.value(), place.path(), value);
                    all.put(place.column().name(), new SeedValue.Nested(document, null, ""));
                } else {
                    all.put(name, value); // what looks like a directive is a literal, in which none is read
                }
            }
        });
        return new SeedRow(row.table(), row.label(), Row.of(all), row.times(), row.place(), row.places());
    }

    private static @Nullable Object writtenOut(Table table, String name, @Nullable Object value) {
        boolean document =
                value instanceof String && table.requireColumn(name).type().kind() == Kind.JSON;
        Object plain = document ? PlainDocument.read(value) : null;
        return plain instanceof Map || plain instanceof List ? new SeedValue.Nested(plain, null, "") : value;
    }

    private byte @Nullable [] longContent(@Nullable Object value) {
        if (value instanceof byte[] bytes) {
            return bytes.length > longest ? bytes : null;
        }
        return value instanceof String text && text.length() > longest ? text.getBytes(StandardCharsets.UTF_8) : null;
    }

    @Override
    public void end() {
        files.end();
    }

    @Override
    public void close() {
        files.close();
    }
}
