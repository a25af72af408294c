package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.internal.mask.Masker;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.Kind;
import java.text.Normalizer;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What rows are called in a document: by the label that they were loaded under, by a natural key or a name, by the row that they
 * belong to, or by table and key. The same row is called the same next time, so that a document that is taken again differs little.
 * Nothing that is masked stands in a label as it was.
 */
final class RowLabels {
    /** Rows of larger tables are called by their keys, which need not be held. */
    static final int MOST_BY_NAME = 20_000;

    private static final int LONGEST = 40;
    private static final Pattern PLAIN = Pattern.compile("[a-z0-9]+");
    private static final Pattern MARKS = Pattern.compile("\\p{M}");
    private static final Pattern SEPARATORS = Pattern.compile("[^\\p{L}\\p{N}]+");
    private static final Pattern OUTER = Pattern.compile("^-|-$");
    private static final List<String> NAMES = List.of("code", "slug", "name", "title", "label", "key");

    private final Masker masker;
    private final Map<String, Set<String>> taken = new HashMap<>();
    private final Map<Table, Map<Object, String>> labels = new HashMap<>();
    private final Map<Table, Map<Object, String>> stored;
    private final Map<String, String> groups = new HashMap<>();

    /**
     * @param stored the labels that rows were loaded under, by table and key
     * @param tables the tables that rows are of; those that one column refers to have no label in common
     * @param documents where documents refer to rows
     */
    RowLabels(Masker masker, Map<Table, Map<Object, String>> stored, List<TableKeys> tables, DocumentParts documents) {
        this.masker = masker;
        this.stored = stored;
        for (TableKeys keys : tables) {
            if (!documents.refs(keys.table()).isEmpty()) { // a label in a document is looked for in all tables
                tables.forEach(other -> join(keys.table().name(), other.table().name()));
            }
        }
        for (TableKeys keys : tables) {
            for (Reference reference : keys.references()) {
                for (Reference other : keys.references()) {
                    boolean shared = reference.columns().stream().anyMatch(other.columns()::contains);
                    if (shared && !reference.target().equals(other.target())) {
                        join(reference.target(), other.target());
                    }
                }
            }
        }
    }

    private void join(String one, String other) {
        String group = groups.computeIfAbsent(one, name -> name);
        String otherGroup = groups.computeIfAbsent(other, name -> name);
        groups.replaceAll((table, of) -> of.equals(otherGroup) ? group : of);
    }

    /** Returns the columns that a table's rows are called by; empty if it is by table and key, which need not be read. */
    List<Column> columns(TableKeys keys) {
        Table table = keys.table();
        List<String> key = keys.key().stream().map(Column::name).toList();
        if (keys.size() > MOST_BY_NAME) {
            return List.of();
        }
        List<List<String>> uniques = new ArrayList<>();
        table.primaryKey().ifPresent(primary -> uniques.add(primary.columns()));
        table.uniques().stream().filter(UniqueKey::isPlain).forEach(unique -> uniques.add(unique.columns()));
        for (List<String> columns : uniques) {
            if (columns.size() == 1 && isReadable(keys, columns.get(0))) {
                return List.of(table.requireColumn(columns.get(0)));
            }
        }
        for (String name : NAMES) {
            Optional<Column> column = table.column(name);
            if (column.isPresent() && isReadable(keys, column.get().name())) {
                return List.of(column.get());
            }
        }
        boolean belongs = key.stream().anyMatch(c -> keys.reference(c).isPresent());
        return belongs ? keys.key() : List.of();
    }

    private boolean isReadable(TableKeys keys, String name) {
        Table table = keys.table();
        Column column = table.requireColumn(name);
        boolean text = column.type().kind() == Kind.TEXT || column.type().kind() == Kind.FIXED_TEXT;
        return text
                && keys.written().contains(column)
                && table.referencesOf(name).isEmpty()
                && !masker.isMasked(table, column);
    }

    /**
     * Gives a row its label. Rows of a table come in key order, tables in storing order.
     *
     * @param row the row's values in {@link #columns}, which are not masked
     * @param parent gives the label of the row that a reference leads to, if it has one already
     */
    void name(TableKeys keys, Object key, Row row, List<Column> by, Function<Reference, Optional<String>> parent) {
        Map<Object, String> ofTable = labels.computeIfAbsent(keys.table(), t -> new HashMap<>());
        Set<String> used = taken.computeIfAbsent(
                groups.getOrDefault(keys.table().name(), keys.table().name()), t -> new HashSet<>());
        String known = stored.getOrDefault(keys.table(), Map.of()).get(key);
        boolean nameless = by.stream().anyMatch(column -> row.get(column.name()) == null);
        String own = nameless ? byKey(keys, key) : wanted(keys, row, by, parent);
        String wanted = known == null ? own : known;
        String label = wanted;
        for (int next = 2; !used.add(label); next++) {
            label = wanted + "-" + next;
        }
        ofTable.put(key, label);
    }

    private String wanted(TableKeys keys, Row row, List<Column> by, Function<Reference, Optional<String>> parent) {
        List<String> parts = new ArrayList<>();
        Set<String> done = new HashSet<>();
        for (Column column : by) {
            Optional<Reference> reference = keys.reference(column.name());
            Optional<String> above = reference.flatMap(parent);
            if (done.contains(column.name())) {
                continue;
            }
            if (reference.isPresent() && above.isPresent()) {
                done.addAll(reference.get().columns());
                parts.add(above.get());
            } else {
                parts.add(readable(masker.masked(keys.table(), column, row.get(column.name()))));
            }
        }
        String text = cut(String.join("-", parts));
        return text.isEmpty() ? keys.table().name() : text;
    }

    private static String readable(@Nullable Object value) {
        String text = String.valueOf(value);
        if (text.length() <= LONGEST && PLAIN.matcher(text).matches()) {
            return text; // as most keys are
        }
        String unaccented = MARKS.matcher(Normalizer.normalize(text, Normalizer.Form.NFD))
                .replaceAll("")
                .replace("ß", "ss");
        String joined = SEPARATORS.matcher(unaccented.toLowerCase(Locale.ROOT)).replaceAll("-");
        return cut(OUTER.matcher(joined).replaceAll(""));
    }

    private static String cut(String text) {
        if (text.length() <= LONGEST) {
            return text;
        }
        int end = Character.isHighSurrogate(text.charAt(LONGEST - 1)) ? LONGEST - 1 : LONGEST;
        return text.substring(0, end).replaceAll("-$", "");
    }

    /** Returns a row's label. */
    String of(TableKeys keys, Object key) {
        String label = labels.getOrDefault(keys.table(), Map.of()).get(key);
        return label == null ? byKey(keys, key) : label;
    }

    /** A masked key stands masked in the label, too. */
    private String byKey(TableKeys keys, Object key) {
        String known = stored.getOrDefault(keys.table(), Map.of()).get(key);
        if (known != null) {
            return known;
        }
        List<String> parts = new ArrayList<>(List.of(readable(keys.table().name())));
        for (int i = 0; i < keys.key().size(); i++) {
            Object value = key instanceof Row row ? row.at(i) : key;
            parts.add(readable(masker.masked(keys.table(), keys.key().get(i), value)));
        }
        return String.join("-", parts);
    }
}
