package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.check.Constant;
import dev.zabbet.internal.check.DocumentSchemas;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.plan.document.DocumentFlaws;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.IntFunction;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Finds for each constraint of a table a row that breaks it alone. */
public final class Flaws {
    private final Schema schema;
    private final Table table;
    private final Recipe<?> factory;
    private final List<CheckCondition> checks = new ArrayList<>();
    private final Plan valid;

    public Flaws(Schema schema, Recipe<?> factory) {
        this.schema = schema;
        this.table = schema.require(factory.table());
        this.factory = complete(factory);
        for (Check check : table.checks()) {
            checks.add(CheckCondition.of(table, check));
        }
        // A row that breaks nothing: what the flaw leaves alone.
        this.valid = Plan.of(schema, 0, Draws.CLOCK, 1, this.factory.withoutStored(), (t, count) -> 1L);
    }

    /** A row that is fed in by hand holds what the database would fill in too: null there would be a second flaw. */
    private <T> Recipe<T> complete(Recipe<T> said) {
        List<String> known = said.settings().keySet().stream()
                .map(name -> columnOf(said, name))
                .toList();
        Recipe<T> complete = said;
        for (Column column : table.columns()) {
            if (column.defaultText().isPresent()
                    && !column.isNumbered()
                    && !column.isComputed()
                    && !isReferring(column)
                    && !known.contains(column.name())) {
                Optional<Object> constant = Constant.ofDefault(column);
                complete = complete.with(
                        column.name(),
                        constant.isPresent() ? new Setting.Fixed(constant.get()) : new Setting.MadeAnyway());
            }
        }
        return complete;
    }

    private String columnOf(Recipe<?> said, String name) {
        return table.column(name).map(Column::name).orElseGet(() -> said.shape()
                .flatMap(shape -> shape.find(name))
                .flatMap(prop -> dev.zabbet.internal.mapping.ColumnMapping.column(table, prop, said.columns()))
                .map(Column::name)
                .orElse(name));
    }

    public Stream<Flaw> all() {
        List<Flaw> all = new ArrayList<>();
        table.columns().stream().filter(c -> !c.isComputed()).forEach(column -> {
            ofNull(column).ifPresent(all::add);
            if (schema.enforcesTypes()) {
                ofLength(column).ifPresent(all::add);
                ofRange(column).ifPresent(all::add);
                ofType(column).ifPresent(all::add);
            }
        });
        checks.forEach(check -> {
            List<Flaw> documents = ofDocuments(check);
            all.addAll(documents.isEmpty() ? ofCheck(check).stream().toList() : documents);
        });
        Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .filter(UniqueKey::isPlain)
                .forEach(key ->
                        all.add(flawed(Flaw.Kind.UNIQUE, named(key.name(), key.columns()), Row.of(Map.of()), "23505")));
        table.references().forEach(reference -> ofReference(reference).ifPresent(all::add));
        return all.stream();
    }

    private static String named(String name, List<String> columns) {
        return name.isEmpty() ? String.join(", ", columns) : name;
    }

    private Flaw flawed(Flaw.Kind kind, String constraint, Row values, String state) {
        return new Flaw(table.name(), kind, constraint, values, state, pinned(values));
    }

    /** Keeps the columns that checks tie to those of the flaw as they were when the other checks were tested. */
    private Recipe<?> pinned(Row flaw) {
        Recipe<?> pinned = factory;
        for (CheckCondition check : checks) {
            if (check.columns().stream().noneMatch(flaw::has)) {
                continue;
            }
            for (String name : check.columns()) {
                Column column = table.requireColumn(name);
                boolean free = !flaw.has(name)
                        && !isReferring(column)
                        && !isKeyed(column)
                        && !column.isNumbered()
                        && !column.isComputed()
                        && table.uniques().stream()
                                .noneMatch(key -> key.columns().contains(name))
                        && factory.settings().keySet().stream()
                                .noneMatch(said -> columnOf(factory, said).equals(name));
                if (free) {
                    pinned = pinned.with(name, new Setting.Fixed(validValue(table.requirePosition(name))));
                }
            }
        }
        return pinned;
    }

    private Optional<Flaw> ofNull(Column column) {
        boolean filledIn =
                column.isNumbered() || (column.nullable() && !table.keyColumns().contains(column.name()));
        if (filledIn || takesTheTime(column) || !keepsChecks(column, null)) {
            return Optional.empty();
        }
        return Optional.of(flawed(Flaw.Kind.NULL, column.name(), Row.row(column.name(), null), "23502"));
    }

    /** MariaDB puts the present time into a TIMESTAMP that is given null (its manual, "Timestamp", automatic values). */
    private boolean takesTheTime(Column column) {
        return schema.enforcesTypes() && column.type().sqlName().matches("timestamp(\\(\\d\\))?");
    }

    private Optional<Flaw> ofLength(Column column) {
        int most = column.type().length();
        Kind kind = column.type().kind();
        if (most == DataType.UNLIMITED || most > 100_000 || isReferring(column)) {
            return Optional.empty();
        }
        Object tooLong;
        if (kind == Kind.TEXT || kind == Kind.FIXED_TEXT) {
            tooLong = "x".repeat(most + 1);
        } else if (kind == Kind.BYTES) {
            tooLong = (Object) new byte[most + 1];
        } else {
            tooLong = null;
        }
        return tooLong == null || !keepsChecks(column, tooLong)
                ? Optional.empty()
                : Optional.of(flawed(Flaw.Kind.LENGTH, column.name(), Row.row(column.name(), tooLong), "22001"));
    }

    private Optional<Flaw> ofRange(Column column) {
        DataType type = column.type();
        if (isReferring(column) || column.isNumbered()) {
            return Optional.empty();
        }
        List<Object> beyond = new ArrayList<>();
        if (type.kind() == Kind.INTEGER
                && type.precision() > 0
                && !type.sqlName().startsWith("year")) {
            BigInteger limit = BigInteger.ONE.shiftLeft(type.unsigned() ? type.precision() : type.precision() - 1);
            beyond.add(limit);
            beyond.add(
                    type.unsigned() ? BigInteger.ONE.negate() : limit.negate().subtract(BigInteger.ONE));
        } else if (type.kind() == Kind.DECIMAL && type.precision() != DataType.UNLIMITED) {
            BigDecimal limit = BigDecimal.TEN.pow(type.precision() - type.scale());
            beyond.add(limit);
            beyond.add(limit.negate());
        }
        for (Object value : beyond) {
            Object kept =
                    value instanceof BigInteger whole && whole.bitLength() < 64 ? (Object) whole.longValue() : value;
            if (keepsChecks(column, kept)) {
                return Optional.of(flawed(Flaw.Kind.RANGE, column.name(), Row.row(column.name(), kept), "22003"));
            }
        }
        return Optional.empty();
    }

    private Optional<Flaw> ofType(Column column) {
        boolean typed = List.of(
                        Kind.INTEGER,
                        Kind.DECIMAL,
                        Kind.FLOAT,
                        Kind.DATE,
                        Kind.TIMESTAMP,
                        Kind.INSTANT,
                        Kind.UUID,
                        Kind.ENUM,
                        Kind.BOOLEAN)
                .contains(column.type().kind());
        boolean checked = checks.stream().anyMatch(check -> check.columns().contains(column.name()));
        if (!typed || checked || isReferring(column) || column.isNumbered() || isKeyed(column)) {
            return Optional.empty();
        }
        return Optional.of(flawed(Flaw.Kind.TYPE, column.name(), Row.row(column.name(), "no such value"), "22018"));
    }

    private boolean isReferring(Column column) {
        return !table.referencesOf(column.name()).isEmpty();
    }

    private boolean isKeyed(Column column) {
        return table.keyColumns().contains(column.name());
    }

    private boolean keepsChecks(Column column, @Nullable Object value) {
        return checks.stream()
                .filter(check -> check.columns().contains(column.name()))
                .allMatch(check -> {
                    int at = table.position(column.name());
                    return check.evaluate(position -> position == at ? value : validValue(position)) == Verdict.KEPT;
                });
    }

    private @Nullable Object validValue(int position) {
        return TestedColumn.value(valid.nodes().get(0), position, 0);
    }

    /** Breaks a JSON Schema that a check holds, one keyword after another. */
    private List<Flaw> ofDocuments(CheckCondition check) {
        if (check.columns().size() != 1) {
            return List.of();
        }
        Column column = table.requireColumn(check.columns().iterator().next());
        JsonSchema documents = DocumentSchemas.of(table, column).orElse(null);
        if (documents == null) {
            return List.of();
        }
        Object valid = PlainDocument.read(validValue(table.requirePosition(column.name())));
        Object begin = valid == null
                ? DocumentRecipe.ofSchema(documents)
                        .withOptional()
                        .make(new Draws(0, 1, Draws.CLOCK, Row.class, name -> null), column.name())
                : valid;
        List<Flaw> flaws = new ArrayList<>();
        for (DocumentFlaws.Flaw flaw : new DocumentFlaws(documents, begin, false).all()) {
            String name = named(check.check().name(), List.of(column.name()));
            Row broken = Row.row(column.name(), PlainDocument.write(flaw.document()));
            flaws.add(flawed(Flaw.Kind.CHECK, name, broken, "23514"));
        }
        return flaws;
    }

    /** Tries the values that the condition speaks of, and those next to them, until it alone is broken. */
    private Optional<Flaw> ofCheck(CheckCondition check) {
        if (check.trouble().isPresent()) {
            return Optional.empty();
        }
        List<Integer> columns = check.columns().stream()
                .map(table::requirePosition)
                .filter(at -> !table.columns().get(at).isComputed()
                        && !isReferring(table.columns().get(at))
                        && !table.columns().get(at).isNumbered())
                .toList();
        Map<Integer, @Nullable Object> tried = new HashMap<>();
        if (columns.isEmpty() || !attempt(check, columns, 0, tried, new int[] {0})) {
            return Optional.empty();
        }
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        columns.forEach(at -> values.put(table.columns().get(at).name(), tried.get(at)));
        String name = check.check().name().isEmpty()
                ? check.check().text()
                : check.check().name();
        return Optional.of(flawed(Flaw.Kind.CHECK, name, Row.of(values), "23514"));
    }

    private boolean attempt(
            CheckCondition check, List<Integer> columns, int at, Map<Integer, @Nullable Object> tried, int[] tries) {
        if (at == columns.size()) {
            IntFunction<@Nullable Object> row =
                    position -> tried.containsKey(position) ? tried.get(position) : validValue(position);
            return tries[0]++ < 20_000
                    && check.evaluate(row) == Verdict.BROKEN
                    && checks.stream()
                            .filter(other -> other != check)
                            .allMatch(other -> other.evaluate(row) == Verdict.KEPT);
        }
        int position = columns.get(at);
        Node node = valid.nodes().get(0);
        CandidateValues candidates = new CandidateValues(
                node,
                position,
                Maker.of(table, table.columns().get(position)),
                Variety.NONE,
                false,
                (row, attempt) -> new Draws(attempt, 1, Draws.CLOCK, Row.class, name -> null));
        List<@Nullable Object> all = new ArrayList<>();
        all.add(validValue(position));
        all.addAll(candidates
                .of(0, List.of(check), p -> tried.containsKey(p) ? tried.get(p) : validValue(p))
                .all());
        Kind kind = table.columns().get(position).type().kind();
        if (kind == Kind.TEXT || kind == Kind.FIXED_TEXT) {
            int most = table.columns().get(position).type().length();
            for (String odd : List.of("~", "?!", "zzzz", "")) {
                all.add(most == DataType.UNLIMITED || odd.length() <= most ? odd : "~");
            }
        }
        for (Object value : all) {
            if (value == null && !table.columns().get(position).nullable()) {
                continue;
            }
            tried.put(position, value);
            if (attempt(check, columns, at + 1, tried, tries)) {
                return true;
            }
        }
        return false;
    }

    private Optional<Flaw> ofReference(Reference reference) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        Table target = schema.require(reference.target());
        // A column that another reference shares has to stay, so that this one alone leads nowhere.
        List<String> own = reference.columns().stream()
                .filter(c -> table.referencesOf(c).size() == 1)
                .toList();
        if (own.isEmpty()) {
            return Optional.empty();
        }
        for (int i = 0; i < reference.columns().size(); i++) {
            if (!own.contains(reference.columns().get(i))) {
                continue;
            }
            Column column = table.requireColumn(reference.columns().get(i));
            Column aim = target.requireColumn(reference.targetColumns().get(i));
            Object nowhere = Nowhere.key(aim.type());
            if (nowhere == null || !keepsChecks(column, nowhere)) {
                return Optional.empty();
            }
            values.put(column.name(), nowhere);
        }
        return Optional.of(
                flawed(Flaw.Kind.REFERENCE, named(reference.name(), reference.columns()), Row.of(values), "23503"));
    }

    /** Keys that no row has that anybody makes. */
    static final class Nowhere {
        private Nowhere() {}

        static @Nullable Object key(DataType type) {
            return switch (type.kind()) {
                case INTEGER -> {
                    int bits = type.precision() == DataType.UNLIMITED ? 64 : Math.min(64, type.precision());
                    yield bits == 64 ? Long.MAX_VALUE - 41 : (1L << (bits - 1)) - 3;
                }
                case DECIMAL ->
                    BigDecimal.TEN
                            .pow(type.precision() == DataType.UNLIMITED ? 15 : type.precision() - type.scale())
                            .subtract(BigDecimal.ONE);
                case TEXT, FIXED_TEXT ->
                    type.length() == DataType.UNLIMITED || type.length() >= 11
                            ? "no-such-key"
                            : "~".repeat(Math.max(1, type.length()));
                case UUID -> UUID.fromString("00000000-dead-4000-8000-000000000000");
                case DATE -> java.time.LocalDate.of(1801, 2, 3);
                case TIMESTAMP -> java.time.LocalDateTime.of(1971, 2, 3, 4, 5);
                case BYTES -> new byte[] {(byte) 0xDE, (byte) 0xAD};
                default -> null;
            };
        }
    }
}
