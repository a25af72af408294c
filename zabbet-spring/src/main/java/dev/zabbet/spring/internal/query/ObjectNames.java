package dev.zabbet.spring.internal.query;

import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import net.sf.jsqlparser.schema.Table;
import org.jspecify.annotations.Nullable;

/** Names as the language of Jakarta Persistence has them: entities, and paths along their properties. */
final class ObjectNames implements Names {
    private final EntityNames entities;
    private final @Nullable ObjectNames outer;
    private final Map<String, Class<?>> aliases = new LinkedHashMap<>();

    ObjectNames(EntityNames entities, @Nullable ObjectNames outer) {
        this.entities = entities;
        this.outer = outer;
    }

    @Override
    public Source source(Table table) throws UnsupportedQueryException {
        String name = table.getFullyQualifiedName();
        String alias =
                table.getAlias() == null ? "" : table.getAlias().getName().toLowerCase(Locale.ROOT);
        String first = name.contains(".") ? name.substring(0, name.indexOf('.')) : name;
        if (name.contains(".") && known(first) != null) {
            Path path = path(name);
            aliases.put(alias, path.element());
            return new Source(alias, scope -> {
                Object at = path.value().in(scope);
                if (at instanceof Collection<?> several) {
                    return several;
                }
                if (at == null) {
                    return List.of();
                }
                return List.of(at);
            });
        }
        Class<?> type = entities.named(name);
        aliases.put(alias, type);
        return new Source(alias, scope -> scope.call().objects(type));
    }

    @Override
    public Value value(String name) throws UnsupportedQueryException {
        if (name.equalsIgnoreCase("true") || name.equalsIgnoreCase("false")) {
            return scope -> Boolean.valueOf(name);
        }
        String first = name.contains(".") ? name.substring(0, name.indexOf('.')) : name;
        String last = name.substring(name.lastIndexOf('.') + 1);
        boolean property = known(first) != null
                || (only() != null && shape(only()).find(first).isPresent());
        if (!property && Character.isUpperCase(last.charAt(0))) {
            return scope -> new Operators.Constant(last);
        }
        return path(name).value();
    }

    @Override
    public Names inner() {
        return new ObjectNames(entities, this);
    }

    @Override
    public List<Item> star(String alias) throws UnsupportedQueryException {
        throw new UnsupportedQueryException("*");
    }

    /** A path, and the class that its end has; of a collection that of its elements. */
    private record Path(Value value, Class<?> element) {}

    private Path path(String name) throws UnsupportedQueryException {
        String[] parts = name.split("\\.", 2);
        String alias = parts[0].toLowerCase(Locale.ROOT);
        Class<?> type = known(alias);
        String rest = parts.length == 1 ? "" : parts[1];
        if (type == null) {
            type = only(); // an update may do without an alias, and so may a query of one entity
            rest = name;
            alias = aliases.keySet().stream().findFirst().orElse("");
        }
        if (type == null) {
            throw new UnsupportedQueryException(name);
        }
        String from = alias;
        String path = rest;
        return new Path(scope -> read(scope.get(from), path), end(type, path));
    }

    private @Nullable Class<?> only() {
        return aliases.size() == 1 ? aliases.values().iterator().next() : null;
    }

    private @Nullable Class<?> known(String alias) {
        Class<?> here = aliases.get(alias.toLowerCase(Locale.ROOT));
        return here == null && outer != null ? outer.known(alias) : here;
    }

    /** Returns the class at the end of a path, each of whose parts has to be a property. */
    private static Class<?> end(Class<?> type, String path) throws UnsupportedQueryException {
        Class<?> at = type;
        for (String part : path.isEmpty() ? new String[0] : path.split("\\.")) {
            Class<?> owner = at;
            Prop prop = shape(at).find(part).orElse(null);
            if (prop == null && !(part.equals("id") && shape(at).identifier().isPresent())) {
                throw new UnsupportedQueryException(owner.getSimpleName() + "." + part);
            }
            at = prop == null ? Object.class : element(prop);
        }
        return at;
    }

    private static Class<?> element(Prop prop) {
        if (prop.generic() instanceof ParameterizedType type && Collection.class.isAssignableFrom(prop.type())) {
            Type element = type.getActualTypeArguments()[0];
            return element instanceof Class<?> of ? of : Object.class;
        }
        return prop.type();
    }

    /** Reads a property by its path; {@code id} is the key, whatever it is called. */
    static @Nullable Object read(@Nullable Object object, String path) {
        Object at = object;
        for (String name : path.isEmpty() ? new String[0] : path.split("\\.")) {
            if (at == null) {
                return null;
            }
            Object owner = at;
            TypeShape<Object> shape = shape(Proxies.isProxy(at) ? at.getClass().getSuperclass() : at.getClass());
            at = shape.find(name)
                    .or(() -> name.equals("id") && EntityMapping.isEntity(owner.getClass())
                            ? shape.identifier()
                            : java.util.Optional.empty())
                    .<@Nullable Object>map(prop -> shape.read(owner, prop))
                    .orElseGet(() -> shape.read(owner, shape.require(name)));
        }
        return at;
    }

    private static TypeShape<Object> shape(@Nullable Class<?> type) {
        return Operators.shape(java.util.Objects.requireNonNull(type));
    }
}
