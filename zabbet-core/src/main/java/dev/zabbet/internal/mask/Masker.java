package dev.zabbet.internal.mask;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.MaskedColumn;
import dev.zabbet.extract.Masking;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Replaces what {@link PersonalColumns} has found, row by row, and watches that nothing personal passes in columns that are kept:
 * a sample need not show all. Not thread-safe.
 */
public final class Masker {
    private static final int EXAMPLES = 2;
    private static final int SHORTEST_IN_COMMON = 4;
    private static final int MOST_TRIED = 8;

    private final PersonalColumns columns;
    private final Masking masking;
    private final ValueReplacement values;
    private final Map<String, Plan> plans = new HashMap<>();
    private final Map<Place, Tally> tallies = new LinkedHashMap<>();
    private final HashedTexts originals = new HashedTexts();
    private final Map<Place, HashedTexts> kept = new LinkedHashMap<>();
    private final Map<UniqueKey, HashedTexts> unique = new HashMap<>();

    /** @param columns has decided */
    public Masker(PersonalColumns columns, Masking masking) {
        this.columns = columns;
        this.masking = masking;
        this.values = new ValueReplacement(new TextReplacement(masking.secret(), masking.keepsDomains()));
    }

    /** What has been seen of a place. */
    private static final class Tally {
        private long count;
        private final Set<String> examples = new LinkedHashSet<>();

        void add(@Nullable Object replacement) {
            count++;
            if (replacement != null && examples.size() < EXAMPLES) {
                examples.add(Text.brief(replacement));
            }
        }
    }

    /**
     * What is to be done with a column.
     *
     * @param kind what its values are; null if they are kept
     * @param inside whether something inside of its documents is masked
     * @param rule the column whose type and checks say what fits: the one that this refers to in the end, as both stay equal
     * @param own the checks on that column alone
     */
    private record ColumnPlan(
            Column column,
            Place place,
            @Nullable Personal kind,
            boolean inside,
            boolean watched,
            Place rule,
            List<CheckCondition> own,
            Tally tally) {}

    /** What is to be done with the rows of a table. */
    private record Plan(Map<String, ColumnPlan> columns, List<CheckCondition> checks, List<UniqueKey> uniques) {
        ColumnPlan of(Column column) {
            return Objects.requireNonNull(columns.get(column.name()));
        }
    }

    private Plan plan(Table table) {
        Plan known = plans.get(table.name());
        if (known == null) {
            known = made(table);
            plans.put(table.name(), known);
        }
        return known;
    }

    private Plan made(Table table) {
        List<CheckCondition> checks = table.checks().stream()
                .map(check -> CheckCondition.of(table, check))
                .toList();
        Map<String, ColumnPlan> all = new LinkedHashMap<>();
        for (Column column : table.columns()) {
            Place place = Place.of(table, column);
            boolean inside = column.type().kind() == Kind.JSON && masksInside(table, column);
            Place rule = columns.referredTo(place);
            boolean watched = !masking.keeps(place.toString()) && column.type().kind() != Kind.ENUM;
            all.put(
                    column.name(),
                    new ColumnPlan(
                            column,
                            place,
                            inside ? null : columns.finding(place).kind(),
                            inside,
                            watched,
                            rule,
                            ownChecks(rule),
                            tally(place)));
        }
        List<CheckCondition> common = checks.stream()
                .filter(check -> check.columns().size() > 1)
                .filter(check -> check.columns().stream()
                        .anyMatch(c -> Objects.requireNonNull(all.get(c)).kind() != null))
                .toList();
        List<UniqueKey> uniques = new ArrayList<>(table.uniques());
        table.primaryKey().ifPresent(uniques::add);
        uniques.removeIf(key -> !key.isPlain()
                || key.columns().stream().anyMatch(c -> table.requireColumn(c).isComputed())
                || key.columns().stream()
                        .allMatch(c -> Objects.requireNonNull(all.get(c)).kind() == null));
        return new Plan(all, common, uniques);
    }

    private static List<CheckCondition> ownChecks(Place place) {
        return place.table().checks().stream()
                .map(check -> CheckCondition.of(place.table(), check))
                .filter(check -> check.columns().equals(Set.of(place.column().name())))
                .toList();
    }

    /**
     * Returns a row as it is written.
     *
     * @throws ZabbetException if something personal stands where nothing was expected, or no replacement fits
     */
    public Row masked(Table table, Row row) {
        if (masking.isOff()) {
            return row;
        }
        Plan plan = plan(table);
        List<String> names = row.columns();
        @Nullable Object[] all = new @Nullable Object[names.size()];
        boolean changed = false;
        for (int i = 0; i < all.length; i++) {
            ColumnPlan column = Objects.requireNonNull(plan.columns().get(names.get(i)));
            Object value = row.at(i);
            all[i] = value == null ? null : masked(column, value);
            changed |= value != all[i];
        }
        Row masked = Row.of(names, all);
        if (!changed) {
            return row;
        }
        Row kept = plan.checks().isEmpty() ? masked : keptChecks(table, plan, row, masked);
        requireUnique(table, plan, kept);
        return kept;
    }

    private Object masked(ColumnPlan column, Object value) {
        if (column.kind() != null) {
            Object other = replaced(column, value, 0);
            column.tally().add(other);
            note(column.kind(), value);
            return other;
        }
        if (column.inside()) {
            return inside(column.place(), value);
        }
        column.tally().add(null);
        if (column.watched() && value instanceof String text) {
            watch(column.place(), text);
        }
        return value;
    }

    /** Returns what stands for a value of a masked column; the value itself, if the column is not masked. */
    public @Nullable Object masked(Table table, Column column, @Nullable Object value) {
        ColumnPlan plan = plan(table).of(column);
        boolean as = value == null || masking.isOff() || plan.kind() == null;
        return as ? value : replaced(plan, Objects.requireNonNull(value), 0);
    }

    /** Tells whether a column's values are replaced. */
    public boolean isMasked(Table table, Column column) {
        return !masking.isOff() && plan(table).of(column).kind() != null;
    }

    private Object replaced(ColumnPlan plan, Object value, int more) {
        Personal kind = Objects.requireNonNull(plan.kind());
        Place rule = plan.rule();
        Object other = values.of(rule.table(), rule.column(), kind, value, plan.own(), more);
        boolean nothingToHide =
                value instanceof String text && text.codePoints().noneMatch(Character::isLetterOrDigit);
        if (other == null && !nothingToHide && !Objects.equals(value, 0L)) {
            Place place = plan.place();
            throw new ZabbetException("Nothing was written: no replacement for a value of " + place + " fits "
                    + plan.column().type().sqlName() + " and its checks. Leave the column out by --without " + place
                    + ", or keep it by --keep " + place + ".");
        }
        return other == null ? value : other;
    }

    private Object inside(Place place, Object value) {
        Json.Document document = Json.read(String.valueOf(value))
                .orElseThrow(() -> new ZabbetException("Nothing was written: " + place
                        + " holds a text that is no JSON document, so that nothing can be masked inside. Leave the column out by"
                        + " --without " + place + "."));
        return ValueReplacement.json(JsonParts.replaced(
                document.value(), place, (at, part) -> part(place, at, part), name -> personalName(place, name)));
    }

    private Object part(Place place, Place at, Object part) {
        Personal whole = columns.finding(place).kind();
        Personal kind = whole == null ? columns.finding(at).kind() : whole;
        if (kind == null) {
            tally(at).add(null);
            if (part instanceof String text && !masking.keeps(at.toString())) {
                watch(at, text);
            }
            return part;
        }
        Object other = values.part(kind, part);
        tally(at).add(other);
        note(kind, part);
        return other;
    }

    /** Addresses and phone numbers that parts of a document are kept by are replaced as values are. */
    private String personalName(Place place, String name) {
        boolean personal = ContentSigns.isEmail(name) || ContentSigns.isPhone(name);
        return personal && !masking.keeps(place.toString()) ? String.valueOf(values.part(Personal.OTHER, name)) : name;
    }

    /** A document that is masked as a whole keeps its names and its form. */
    private boolean masksInside(Table table, Column column) {
        return columns.finding(Place.of(table, column)).isMasked() || columns.masksInside(table, column);
    }

    private Tally tally(Place place) {
        return tallies.computeIfAbsent(place, p -> new Tally());
    }

    private void note(Personal kind, Object original) {
        if (kind.identifies() && original instanceof String text && text.length() >= SHORTEST_IN_COMMON) {
            originals.add(HashedTexts.of(text));
        }
    }

    private void watch(Place place, String text) {
        if (text.length() < SHORTEST_IN_COMMON) {
            return;
        }
        if (ContentSigns.holdsPersonal(text) || ContentSigns.isHashed(text)) {
            throw new ZabbetException("Nothing was written: a value of " + place
                    + " looks personal, and the column was to be kept, since a sample of it "
                    + columns.finding(place).why() + ". Decide: --mask " + place + ", --keep " + place
                    + ", or --without " + place + ".");
        }
        kept.computeIfAbsent(place, p -> new HashedTexts()).add(HashedTexts.of(text));
    }

    /** A condition on several columns may need other replacements. */
    private Row keptChecks(Table table, Plan plan, Row row, Row masked) {
        Row kept = masked;
        for (CheckCondition check : plan.checks()) {
            for (int more = 1; isBroken(table, check, kept); more++) {
                List<String> involved = check.columns().stream()
                        .filter(c -> row.has(c)
                                && Objects.requireNonNull(plan.columns().get(c)).kind() != null)
                        .toList();
                if (more == MOST_TRIED || involved.isEmpty()) {
                    throw new ZabbetException("Nothing was written: with masked values a row of " + table.name()
                            + " would break the check " + check.check().name() + ", "
                            + check.check().text() + ". Leave a column out by --without " + table.name() + "."
                            + check.columns().iterator().next() + ".");
                }
                for (String name : involved) {
                    Object value = row.get(name);
                    ColumnPlan column = Objects.requireNonNull(plan.columns().get(name));
                    kept = kept.with(name, value == null ? null : replaced(column, value, more));
                }
            }
        }
        return kept;
    }

    private static boolean isBroken(Table table, CheckCondition check, Row row) {
        boolean whole = check.columns().stream().allMatch(row::has);
        List<String> names = table.columnNames();
        return whole && check.evaluate(at -> row.get(names.get(at))) == CheckCondition.Verdict.BROKEN;
    }

    /** Replacements of different values differ, but where there was no room for that, as in an address of ten characters. */
    private void requireUnique(Table table, Plan plan, Row all) {
        for (UniqueKey key : plan.uniques()) {
            List<String> parts = new ArrayList<>();
            if (key.columns().stream().anyMatch(column -> !all.has(column) || all.get(column) == null)) {
                continue; // null is equal to nothing, or left out
            }
            key.columns().forEach(column -> parts.add(Text.of(all.get(column))));
            HashedTexts seen = unique.computeIfAbsent(key, k -> new HashedTexts());
            long number = HashedTexts.of(table.name() + "\n" + String.join("\n", parts));
            if (seen.holds(number)) {
                throw new ZabbetException("Nothing was written: two masked rows of " + table.name()
                        + " would be alike in " + String.join(", ", key.columns())
                        + ", which is unique; the column is too short for other values. Keep it by --keep, or leave it out"
                        + " by --without.");
            }
            seen.add(number);
        }
    }

    /**
     * Makes sure at the end that no column was kept which has values of a masked one; a sample need not show that.
     *
     * @throws ZabbetException if one has
     */
    public void requireNothingInCommon() {
        kept.forEach((place, seen) -> {
            int common = seen.inCommon(originals);
            if (common > 1) {
                throw new ZabbetException("Nothing was written: " + place + " has " + common
                        + " values of columns that are masked. Decide: --mask " + place + ", --keep " + place
                        + ", or --without " + place + ".");
            }
        });
    }

    /** Returns what became of each column, in the order of the tables. */
    public List<MaskedColumn> report() {
        List<MaskedColumn> report = new ArrayList<>();
        columns.findings().forEach((place, finding) -> {
            Tally tally = tallies.getOrDefault(place, new Tally());
            Personal kind = finding.kind();
            boolean document = place.column().type().kind() == Kind.JSON;
            boolean inside = document && masksInside(place.table(), place.column());
            if (!document || inside != place.path().isEmpty()) { // the column as a whole, or what is in it
                report.add(new MaskedColumn(
                        place.table().name(),
                        place.column().name(),
                        place.path(),
                        kind == null ? "" : kind.text(),
                        finding.why(),
                        tally.count,
                        List.copyOf(tally.examples)));
            }
        });
        return report;
    }
}
