package dev.zabbet.internal.mask;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Masking;
import dev.zabbet.internal.value.Json;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Decides which columns hold personal values: by what the user said, then by {@link PlaceJudgement}, then by values that a
 * column has in common with a masked one, and in the end along references, whose both sides have to stay equal.
 */
public final class PersonalColumns {
    private static final int SHORTEST_IN_COMMON = 4;
    private static final double MOST_IN_COMMON = 0.2;

    private final Schema schema;
    private final Masking masking;
    private final Set<Table> tables = new HashSet<>();
    private final Map<Place, PlaceSample> samples = new LinkedHashMap<>();
    private final Map<Place, Finding> findings = new LinkedHashMap<>();

    public PersonalColumns(Schema schema, Masking masking) {
        this.schema = schema;
        this.masking = masking;
    }

    /** Looks at a row that will be written. */
    public void sample(Table table, List<Column> columns, Row row) {
        tables.add(table);
        for (Column column : columns) {
            Place place = Place.of(table, column);
            PlaceSample sample = samples.computeIfAbsent(place, p -> new PlaceSample());
            Object value = row.get(column.name());
            if (value != null) {
                add(place, sample, value);
            }
        }
    }

    private void add(Place place, PlaceSample sample, Object value) {
        if (value instanceof List<?> list) {
            list.stream().filter(java.util.Objects::nonNull).forEach(one -> add(place, sample, one));
            return;
        }
        sample.add(value);
        if (place.column().type().kind() == Kind.JSON && value instanceof String text) {
            Json.read(text)
                    .ifPresent(document -> JsonParts.each(
                            document.value(), place, (at, part) -> samples.computeIfAbsent(at, p -> new PlaceSample())
                                    .add(part)));
        }
    }

    /**
     * Decides.
     *
     * @throws ZabbetException if something has to be decided by a person; the message says what
     */
    public void decide() {
        Set<Table> besidePersons = new HashSet<>();
        samples.forEach((place, sample) -> {
            Finding first = new PlaceJudgement(place, sample, false).judge();
            if (first.kind() != null && first.kind().identifies() && first.kind() != Personal.SECRET) {
                besidePersons.add(place.table());
            }
        });
        samples.forEach((place, sample) -> findings.put(
                place,
                judged(place, () -> new PlaceJudgement(place, sample, besidePersons.contains(place.table())).judge())));
        findInCommon();
        followReferences();
        List<String> open = new ArrayList<>();
        findings.forEach((place, finding) -> {
            if (finding.undecided()) {
                open.add(place + " " + finding.why());
            }
        });
        if (!open.isEmpty()) {
            String first = open.get(0).substring(0, open.get(0).indexOf(' '));
            throw new ZabbetException("Nothing was written: it cannot be told whether "
                    + (open.size() == 1 ? "this column is" : "these columns are") + " personal.\n  "
                    + String.join("\n  ", open) + "\nDecide for each: --mask " + first + ", --keep " + first
                    + ", or --without " + first + ".");
        }
    }

    /** What the user said comes first. */
    private Finding judged(Place place, java.util.function.Supplier<Finding> judgement) {
        if (masking.isOff()) {
            return Finding.kept("masking is off");
        }
        if (masking.masks(place.toString())) {
            return Finding.masked(PersonalWords.of(place.name()).orElse(Personal.OTHER), "asked for");
        }
        return masking.keeps(place.toString()) ? Finding.kept("asked for") : judgement.get();
    }

    private boolean isAskedFor(Place place) {
        return masking.keeps(place.toString()) || masking.masks(place.toString());
    }

    /** A text column that has values of a masked one holds the same thing under another name. */
    private void findInCommon() {
        if (masking.isOff()) {
            return;
        }
        Map<String, Place> originals = new LinkedHashMap<>();
        findings.forEach((place, finding) -> {
            if (finding.kind() != null && finding.kind().identifies()) {
                for (Object value : sample(place).values()) {
                    if (value instanceof String text && text.length() >= SHORTEST_IN_COMMON) {
                        originals.putIfAbsent(text, place);
                    }
                }
            }
        });
        findings.replaceAll((place, finding) -> {
            if (finding.isMasked() || isAskedFor(place) || place.column().type().kind() == Kind.ENUM) {
                return finding;
            }
            PlaceSample sample = sample(place);
            List<String> common = sample.values().stream()
                    .filter(String.class::isInstance)
                    .map(String.class::cast)
                    .filter(originals::containsKey)
                    .toList();
            boolean many = common.size() >= 2
                    || common.size() >= MOST_IN_COMMON * sample.values().size();
            if (common.isEmpty() || !many) {
                return finding;
            }
            Place other = originals.get(common.get(0));
            return Finding.masked(kind(other), "has values of " + other);
        });
    }

    private Personal kind(@Nullable Place place) {
        Finding finding = place == null ? null : findings.get(place);
        return finding == null || finding.kind() == null ? Personal.OTHER : finding.kind();
    }

    private PlaceSample sample(Place place) {
        return samples.getOrDefault(place, new PlaceSample());
    }

    /** What refers to a masked column, or is referred to by one, has to be replaced alike. */
    private void followReferences() {
        boolean again = true;
        while (again) {
            again = false;
            for (Table table : tables) {
                for (Reference reference : table.references()) {
                    Table target = schema.table(reference.target()).orElse(null);
                    for (int i = 0; target != null && i < reference.columns().size(); i++) {
                        Place from = Place.of(
                                table, table.requireColumn(reference.columns().get(i)));
                        Place to = Place.of(
                                target,
                                target.requireColumn(reference.targetColumns().get(i)));
                        again |= alike(from, to) || alike(to, from);
                    }
                }
            }
        }
    }

    private boolean alike(Place masked, Place other) {
        Finding finding = findings.get(masked);
        Finding others = findings.get(other);
        if (finding == null || others == null || finding.kind() == null || others.isMasked()) {
            return false;
        }
        findings.put(other, Finding.masked(finding.kind(), "refers to " + masked + ", or is referred to by it"));
        return true;
    }

    /** Follows a column's references to the column that gives it its values; one that refers to none is that itself. */
    Place referredTo(Place place) {
        Set<Place> seen = new HashSet<>();
        Place at = place;
        while (seen.add(at)) {
            for (Reference reference : at.table().referencesOf(at.column().name())) {
                Table target = schema.table(reference.target()).orElse(null);
                if (target != null) {
                    int part = reference.columns().indexOf(at.column().name());
                    at = Place.of(
                            target,
                            target.requireColumn(reference.targetColumns().get(part)));
                    break;
                }
            }
        }
        return at;
    }

    Map<Place, Finding> findings() {
        return findings;
    }

    Finding finding(Place place) {
        return findings.getOrDefault(place, Finding.kept("holds no value"));
    }

    /** Tells whether a place inside of a column's documents is masked. */
    boolean masksInside(Table table, Column column) {
        return findings.entrySet().stream()
                .anyMatch(e -> e.getKey().table().equals(table)
                        && e.getKey().column().equals(column)
                        && !e.getKey().path().isEmpty()
                        && e.getValue().isMasked());
    }
}
