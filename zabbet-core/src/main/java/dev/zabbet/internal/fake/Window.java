package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which of the rows found a call wants, and in which order: numbers named limit and offset, and value objects that are
 * known by what can be read from them (a size with an offset or a page counted from 0; a property with a direction).
 */
record Window(long offset, long limit, List<Phrase.Order> order, FakeSupport.@Nullable Place place) {
    /** Stands for all rows. */
    static final long ALL = Long.MAX_VALUE;

    private static final Set<String> LIMITS =
            Set.of("limit", "max", "maxresults", "maxrows", "most", "atmost", "top", "size", "pagesize", "count");
    private static final Set<String> OFFSETS = Set.of("offset", "skip", "start", "firstresult", "from");
    private static final Set<String> PAGES = Set.of("page", "pagenumber", "number", "pageindex", "index");
    private static final Set<String> SORTS = Set.of("sort", "sorting", "order", "orderby", "sortby", "orders");
    private static final Set<String> NAMES = Set.of("property", "field", "column", "by", "name");
    private static final Set<String> DIRECTIONS = Set.of("direction", "dir", "order", "descending", "desc", "reversed");
    private static final Set<String> RISING = Set.of("ascending", "asc");

    Window(long offset, long limit, List<Phrase.Order> order) {
        this(offset, limit, order, null);
    }

    static Window none() {
        return new Window(0, ALL, List.of());
    }

    /** Tells whether a parameter says which rows are wanted. */
    static boolean isWindow(Signature signature, int parameter) {
        Class<?> type = signature.parameter(parameter);
        if (Supports.selection(type).isPresent() || signature.isResultType(parameter)) {
            return true;
        }
        String name = signature.parameterName(parameter).orElse("").toLowerCase(Locale.ROOT);
        if (type == int.class || type == long.class || type == Integer.class || type == Long.class) {
            return LIMITS.contains(name) || OFFSETS.contains(name) || PAGES.contains(name);
        }
        if (type == String.class) {
            return SORTS.contains(name);
        }
        return isPage(type) || isSort(type) || (Iterable.class.isAssignableFrom(type) && SORTS.contains(name));
    }

    private static boolean isPage(Class<?> type) {
        return readable(type)
                && reader(type, LIMITS).isPresent()
                && (reader(type, OFFSETS).isPresent() || reader(type, PAGES).isPresent());
    }

    private static boolean isSort(Class<?> type) {
        return readable(type)
                && reader(type, NAMES).isPresent()
                && (reader(type, DIRECTIONS).isPresent() || reader(type, RISING).isPresent());
    }

    private static boolean readable(Class<?> type) {
        return !type.isPrimitive() && !type.isArray() && !type.getName().startsWith("java.");
    }

    /** Returns the window with what an argument says. */
    Window with(Signature signature, int parameter, @Nullable Object argument, EntityType entity) {
        if (argument == null) {
            return this;
        }
        Optional<FakeSupport.SelectionForm> form = Supports.selection(signature.parameter(parameter));
        if (form.isPresent()) {
            return with(form.get().of(argument), entity);
        }
        if (signature.isResultType(parameter)) {
            return this;
        }
        String name = signature.parameterName(parameter).orElse("").toLowerCase(Locale.ROOT);
        if (argument instanceof Number number) {
            long given = notNegative(signature, name, number.longValue());
            return LIMITS.contains(name)
                    ? new Window(offset, given, order)
                    : new Window(PAGES.contains(name) ? Math.multiplyExact(given, limit) : given, limit, order);
        }
        if (argument instanceof String text) {
            return new Window(offset, limit, List.of(orderBy(new FakeSupport.SortBy(text, false, false), entity)));
        }
        if (argument instanceof Iterable<?> sorts) {
            List<Phrase.Order> orders = new ArrayList<>();
            sorts.forEach(sort -> orders.add(order(sort, entity)));
            return new Window(offset, limit, orders);
        }
        if (!isPage(argument.getClass()) && isSort(argument.getClass())) {
            return new Window(offset, limit, List.of(order(argument, entity)));
        }
        return page(argument, entity);
    }

    private Window with(FakeSupport.Selection selection, EntityType entity) {
        List<Phrase.Order> orders = new ArrayList<>(order);
        selection.order().forEach(by -> orders.add(orderBy(by, entity)));
        return new Window(
                offset + selection.offset(),
                Math.min(limit, selection.limit()),
                orders,
                selection.place() != null ? selection.place() : place);
    }

    /** Returns the window with the key as the last of its order, if places depend on values. */
    Window inTotalOrder(EntityType entity) {
        if (place == null) {
            return this;
        }
        List<Phrase.Order> orders = new ArrayList<>(order);
        for (Prop part : entity.key()) {
            if (orders.stream().noneMatch(by -> by.property().equals(part))) {
                orders.add(Phrase.Order.of(Phrase.Named.own(part), false));
            }
        }
        return new Window(offset, limit, orders, place);
    }

    /** Returns the order by names. */
    List<FakeSupport.SortBy> sortedBy() {
        return order.stream().map(Phrase.Order::by).toList();
    }

    private static long notNegative(Signature signature, String name, long number) {
        if (number < 0) {
            throw new ZabbetException(
                    signature.describe() + ": " + name + " is " + number + "; it must be at least 0.");
        }
        return number;
    }

    /**
     * Puts the parameters that say how many rows before those that count pages of so many.
     *
     * @throws UnknownMethodException if pages are counted and nothing says how large they are
     */
    static List<Integer> inOrder(Signature signature, List<Integer> windows) throws UnknownMethodException {
        List<Integer> limits = new ArrayList<>(windows);
        limits.removeIf(parameter -> !isNumber(signature, parameter, LIMITS));
        List<Integer> all = new ArrayList<>(limits);
        for (int parameter : windows) {
            if (isNumber(signature, parameter, PAGES) && limits.isEmpty()) {
                throw new UnknownMethodException(
                        "it counts pages, and no parameter says their size (name one size or limit)");
            }
            if (!limits.contains(parameter)) {
                all.add(parameter);
            }
        }
        return all;
    }

    private static boolean isNumber(Signature signature, int parameter, Set<String> names) {
        Class<?> type = signature.parameter(parameter);
        return (type.isPrimitive() || Number.class.isAssignableFrom(type))
                && names.contains(signature.parameterName(parameter).orElse("").toLowerCase(Locale.ROOT));
    }

    private Window page(Object page, EntityType entity) {
        long size = ((Number) required(page, LIMITS)).longValue();
        Optional<Method> start = reader(page.getClass(), OFFSETS);
        long from = start.isPresent()
                ? ((Number) required(page, OFFSETS)).longValue()
                : ((Number) required(page, PAGES)).longValue() * size;
        List<Phrase.Order> orders = new ArrayList<>(order);
        Object sort = reader(page.getClass(), SORTS).map(m -> call(m, page)).orElse(null);
        if (sort instanceof Iterable<?> several) {
            several.forEach(one -> orders.add(order(one, entity)));
        } else if (sort != null) {
            orders.add(order(sort, entity));
        }
        return new Window(from, size, orders);
    }

    private static Phrase.Order order(Object sort, EntityType entity) {
        if (!isSort(sort.getClass())) {
            return orderBy(new FakeSupport.SortBy(sort.toString(), false, false), entity);
        }
        boolean falling = reader(sort.getClass(), RISING)
                .map(m -> Boolean.FALSE.equals(call(m, sort)))
                .orElseGet(() -> {
                    Object direction = required(sort, DIRECTIONS);
                    return direction instanceof Boolean b
                            ? b
                            : direction.toString().toUpperCase(Locale.ROOT).startsWith("DESC");
                });
        return orderBy(new FakeSupport.SortBy(required(sort, NAMES).toString(), falling, false), entity);
    }

    private static Phrase.Order orderBy(FakeSupport.SortBy by, EntityType entity) {
        Phrase.Named named = Phrase.named(List.of(by.property().split("\\.")), entity)
                .orElseThrow(() -> new dev.zabbet.error.UnknownNameException(
                        "property of " + entity.type().getSimpleName() + " to order by",
                        by.property(),
                        entity.shape().properties().stream().map(Prop::name).toList()));
        return Phrase.Order.of(named, by);
    }

    private static Object required(Object of, Set<String> names) {
        Object value = call(reader(of.getClass(), names).orElseThrow(), of);
        return Words.notNull(value, String.join(" or ", names), of.getClass().getSimpleName());
    }

    /** Finds a method without parameters by its name, with or without get and is. */
    private static Optional<Method> reader(Class<?> type, Set<String> names) {
        for (Method method : type.getMethods()) {
            String name = method.getName().toLowerCase(Locale.ROOT).replaceFirst("^(get|is)", "");
            if (method.getParameterCount() == 0
                    && !Modifier.isStatic(method.getModifiers())
                    && method.getDeclaringClass() != Object.class
                    && !(type.isEnum() && method.getDeclaringClass() == Enum.class)
                    && names.contains(name)) {
                return Optional.of(method);
            }
        }
        return Optional.empty();
    }

    private static @Nullable Object call(Method method, Object of) {
        try {
            method.setAccessible(true);
            return method.invoke(of);
        } catch (ReflectiveOperationException e) {
            throw new ZabbetException(method.getName() + " of " + of.getClass().getName() + " cannot be read.", e);
        }
    }
}
