package dev.zabbet.internal.fake;

import dev.zabbet.factory.Factory;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.lang.reflect.Method;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** Makes arguments for generated calls: values that are stored and others, objects that are new, changed or wrong. */
final class MadeArguments {
    private final Class<?> type;
    private final MemoryStore store;
    private Random random = new Random(0);
    private final Map<Class<?>, List<Object>> imagined = new HashMap<>();

    MadeArguments(Class<?> type, MemoryStore store) {
        this.type = type;
        this.store = store;
    }

    /** Returns the methods of an interface in an order that is the same in every process. */
    static List<Method> methods(Class<?> type) {
        return Arrays.stream(type.getMethods())
                .sorted(Comparator.comparing(Method::toString))
                .toList();
    }

    /** Returns why arguments of a method cannot be made, if so. */
    Optional<String> trouble(Method method) {
        if (Supports.isLazy(method)) {
            return Optional.of("what it hands out is read when it is used");
        }
        Signature signature = Signature.of(type, method);
        for (int i = 0; i < signature.size(); i++) {
            Class<?> parameter = signature.parameter(i);
            Class<?> element =
                    Signature.raw(Signature.element(signature.parameters().get(i)));
            boolean many = Iterable.class.isAssignableFrom(parameter);
            if (!isMakeable(many ? element : parameter) || (many && !isCollection(parameter))) {
                return Optional.of("no " + parameter.getSimpleName() + " can be made");
            }
        }
        return Optional.empty();
    }

    private boolean isMakeable(Class<?> of) {
        return (JavaValue.kindOf(of) != Kind.OTHER && of != byte[].class) || EntityType.isEntity(of, store.schema());
    }

    private static boolean isCollection(Class<?> of) {
        return of.isAssignableFrom(ArrayList.class) || of.isAssignableFrom(LinkedHashSet.class);
    }

    /** @param draws what chooses the arguments of this call */
    @Nullable
    Object[] of(Method method, Random draws) {
        random = draws;
        Signature signature = Signature.of(type, method);
        @Nullable Object[] arguments = new @Nullable Object[signature.size()];
        for (int i = 0; i < arguments.length; i++) {
            Type parameter = signature.parameters().get(i);
            String name = signature.parameterName(i).orElse("");
            if (Iterable.class.isAssignableFrom(Signature.raw(parameter))) {
                Collection<@Nullable Object> several = Signature.raw(parameter).isAssignableFrom(ArrayList.class)
                        ? new ArrayList<>()
                        : new LinkedHashSet<>();
                for (int n = random.nextInt(4); n > 0; n--) {
                    Object element = one(Signature.raw(Signature.element(parameter)), name);
                    if (several.stream().noneMatch(other -> isSameEntity(element, other))) {
                        several.add(element);
                    }
                }
                arguments[i] = several;
            } else {
                arguments[i] = one(Signature.raw(parameter), name);
            }
        }
        return arguments;
    }

    /** What becomes of two objects for one row in one call, a provider leaves open. */
    private boolean isSameEntity(@Nullable Object one, @Nullable Object other) {
        if (one == null || other == null || !EntityMapping.isEntity(one.getClass())) {
            return false;
        }
        EntityType entity = EntityType.of(one.getClass(), store);
        Row row = entity.row(one);
        Row there = entity.row(other);
        return entity.hasKey(row) && entity.hasKey(there) && entity.isSameKey(row, there);
    }

    private @Nullable Object one(Class<?> of, String name) {
        return EntityType.isEntity(of, store.schema()) ? object(of) : value(of, name);
    }

    /** A value of a stored row, of the column that the parameter is named after where there is one. */
    private @Nullable Object value(Class<?> of, String name) {
        if (of.isEnum()) {
            return of.getEnumConstants()[random.nextInt(of.getEnumConstants().length)];
        }
        if (of == boolean.class || of == Boolean.class) {
            return random.nextBoolean();
        }
        List<Object> pool = new ArrayList<>();
        for (Table table : tables()) {
            for (Column column : table.columns()) {
                boolean named =
                        table.columnForProperty(name).filter(column::equals).isPresent();
                if (named || (pool.isEmpty() && column.type().kind() == kind(of))) {
                    store.rows(table, Condition.all()).forEach(row -> add(pool, row.get(column.name()), of));
                }
                if (named) {
                    break;
                }
            }
        }
        if (pool.isEmpty() || random.nextInt(6) == 0) {
            return other(of);
        }
        return pool.get(random.nextInt(pool.size()));
    }

    private static Kind kind(Class<?> of) {
        return JavaValue.kindOf(of);
    }

    private static void add(List<Object> pool, @Nullable Object value, Class<?> of) {
        try {
            Object converted = JavaValue.to(of, value);
            if (converted != null) {
                pool.add(converted);
            }
        } catch (InexactValueException e) {
            return; // a value of another kind is none for this parameter
        }
    }

    private @Nullable Object other(Class<?> of) {
        Object value =
                switch (kind(of)) {
                    case INTEGER -> 1 + random.nextInt(100);
                    case DECIMAL, FLOAT -> new java.math.BigDecimal(random.nextInt(10_000)).movePointLeft(2);
                    case TEXT -> "text " + random.nextInt(1000);
                    case DATE -> java.time.LocalDate.of(2031, 7, 1).plusDays(random.nextInt(60));
                    case TIME -> java.time.LocalTime.of(random.nextInt(24), 0);
                    case TIMESTAMP -> java.time.LocalDateTime.of(2031, 7, 1, random.nextInt(24), 0);
                    case INSTANT ->
                        java.time.Instant.parse("2031-07-01T08:00:00Z").plusSeconds(random.nextInt(9999));
                    case UUID -> UUID.nameUUIDFromBytes(new byte[] {(byte) random.nextInt(), (byte) random.nextInt()});
                    default -> null;
                };
        try {
            return JavaValue.to(of, value);
        } catch (InexactValueException e) {
            return null;
        }
    }

    private List<Table> tables() {
        Set<Table> found = new LinkedHashSet<>();
        for (Method method : methods(type)) {
            Signature signature = Signature.of(type, method);
            List<Class<?>> within = new ArrayList<>(Signature.within(signature.result()));
            signature.parameters().forEach(p -> within.addAll(Signature.within(p)));
            within.stream()
                    .filter(c -> EntityType.isEntity(c, store.schema()))
                    .forEach(c -> found.add(store.schema().require(TypeShape.tableOf(c))));
        }
        return List.copyOf(found);
    }

    /** An object like a stored one, with some values of others and some that are new. */
    private Object object(Class<?> of) {
        EntityType entity = EntityType.of(of, store.schema());
        List<Row> rows = store.rows(entity.table(), Condition.all());
        Object fresh = imagined(of);
        if (rows.isEmpty()) {
            return fresh;
        }
        Row base = rows.get(random.nextInt(rows.size()));
        Row other = rows.get(random.nextInt(rows.size()));
        Set<String> unique = new LinkedHashSet<>();
        for (UniqueKey key : entity.table().uniques()) {
            unique.addAll(key.columns());
        }
        boolean isNew = random.nextInt(2) == 0;
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Prop prop : entity.shape().properties()) {
            Optional<Column> column = entity.columnOf(prop);
            Object value = column.map(c -> base.get(c.name())).orElse(null);
            if (entity.key().contains(prop)) {
                value = key(entity, prop, value, fresh, isNew);
            } else if (column.isPresent()) {
                value = changed(
                        column.get(),
                        value,
                        other,
                        entity.shape().readStored(fresh, prop),
                        isNew && unique.contains(column.get().name()));
            }
            values.put(prop.name(), value);
        }
        return entity.shape().make(prop -> fitted(prop, values.get(prop.name())));
    }

    /** A primitive property has no null: its zero stands for none. */
    private static @Nullable Object fitted(Prop prop, @Nullable Object value) {
        if (value == null && prop.type().isPrimitive() && JavaValue.kindOf(prop.type()) == Kind.INTEGER) {
            return (Object) 0;
        }
        if (value == null && prop.type() == boolean.class) {
            return (Object) false;
        }
        return value;
    }

    private @Nullable Object key(EntityType entity, Prop prop, @Nullable Object stored, Object fresh, boolean isNew) {
        if (!isNew) {
            return random.nextInt(12) == 0 ? other(prop.storedType()) : stored;
        }
        return entity.isNumbered() ? null : entity.shape().readStored(fresh, prop);
    }

    private @Nullable Object changed(
            Column column, @Nullable Object stored, Row other, @Nullable Object fresh, boolean unique) {
        boolean reference = store.schema().tables().stream()
                .anyMatch(t -> t.column(column.name()).filter(column::equals).isPresent()
                        && !t.referencesOf(column.name()).isEmpty());
        int dice = random.nextInt(40);
        if (unique && dice > 3) {
            return fresh;
        }
        if (dice < 8) {
            return other.get(column.name());
        }
        if (dice < 12 && !reference) {
            return fresh;
        }
        if (dice == 12) {
            return column.nullable() || random.nextInt(3) == 0 ? null : stored;
        }
        return dice == 13 && reference ? (Object) 987_654 : stored;
    }

    /** Objects made from the type alone; their values need not keep the schema's constraints. */
    private Object imagined(Class<?> of) {
        List<Object> made = imagined.computeIfAbsent(
                of, c -> new ArrayList<>(Factory.forType(c).build(400)));
        return made.get(random.nextInt(made.size()));
    }
}
