package dev.zabbet.spring.internal.data;

import dev.zabbet.fake.CallArguments;
import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Tables;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.schema.Schema;
import dev.zabbet.spring.internal.criteria.CriteriaQueries;
import dev.zabbet.spring.internal.query.Call;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.springframework.core.ResolvableType;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.core.annotation.AnnotationAttributes;
import org.springframework.dao.DataIntegrityViolationException;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.dao.IncorrectResultSizeDataAccessException;
import org.springframework.dao.OptimisticLockingFailureException;
import org.springframework.data.domain.Example;
import org.springframework.data.repository.Repository;
import org.springframework.data.repository.query.FluentQuery;

/** The methods of Spring Data's own interfaces whose names do not say what they do, and what repositories throw. */
final class SpringDataMethods {
    private static final Set<String> LAZY = Set.of("getReferenceById", "getById", "getOne");

    private final Class<?> entity;
    private final Schema schema;

    private SpringDataMethods(Class<?> entity, Schema schema) {
        this.entity = entity;
        this.schema = schema;
    }

    static Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        if (!method.getDeclaringClass().getName().startsWith("org.springframework.data.")) {
            return SpringDataQueries.definition(method, entity, schema);
        }
        SpringDataMethods methods = new SpringDataMethods(entity, schema);
        boolean parted = schema.table(TypeShape.tableOf(entity))
                .filter(table -> table.keyColumns().size() > 1)
                .isPresent();
        return Optional.ofNullable(parted ? methods.byParts(method) : null)
                .or(() -> Optional.ofNullable(methods.definition(method)));
    }

    private @Nullable Definition definition(Method method) {
        List<Class<?>> parameters = List.of(method.getParameterTypes());
        boolean conditional = !parameters.isEmpty()
                && (parameters.get(0) == Example.class || SpringDataSpecifications.isSpecification(parameters.get(0)));
        return switch (method.getName()) {
            case "deleteAllInBatch" -> parameters.isEmpty() ? this::deleteAll : this::deleteThese;
            case "deleteInBatch" -> this::deleteThese;
            case "deleteAllByIdInBatch" -> this::deleteByIds;
            case "getReferenceById", "getById", "getOne" -> this::reference;
            case "count" ->
                conditional
                        ? (tables, given) ->
                                (long) matching(method, tables, given).size()
                        : null;
            case "exists" ->
                conditional
                        ? (tables, given) -> !matching(method, tables, given).isEmpty()
                        : null;
            case "findOne" -> conditional ? (tables, given) -> one(matching(method, tables, given)) : null;
            case "findAll" ->
                conditional
                        ? (tables, given) -> SpringDataQueries.cut(
                                matching(method, tables, given),
                                SpringDataQueries.selection(method, given),
                                method,
                                given) // a condition for counting of its own makes no difference
                        : null;
            case "delete" ->
                conditional ? (tables, given) -> delete(tables, matching(method, tables, given).stream()) : null;
            case "update" -> conditional ? (tables, given) -> update(method, tables, given) : null;
            case "findBy" -> conditional ? (tables, given) -> fluent(method, tables, given) : null;
            default -> null;
        };
    }

    /** What is asked by a key of several parts, which the names of methods do not say. */
    private @Nullable Definition byParts(Method method) {
        return switch (method.getName()) {
            case "findById" -> (tables, given) -> find(tables, given.get(0)).orElse(null);
            case "existsById" -> (tables, given) -> find(tables, given.get(0)).isPresent();
            case "findAllById" ->
                (tables, given) -> stream(given.get(0, Iterable.class))
                        .flatMap(id -> find(tables, id).stream())
                        .toList();
            case "deleteById" -> (tables, given) -> deleteById(tables, given.get(0));
            case "deleteAllById" ->
                (tables, given) -> stream(given.get(0, Iterable.class))
                        .filter(id -> deleteById(tables, id))
                        .count();
            default -> null;
        };
    }

    private Optional<Object> find(Tables tables, @Nullable Object id) {
        return tables.find(entity, tables.keyOf(entity, Objects.requireNonNull(id, "id")));
    }

    private boolean deleteById(Tables tables, @Nullable Object id) {
        return tables.delete(entity, tables.keyOf(entity, Objects.requireNonNull(id, "id")));
    }

    private Object deleteAll(Tables tables, CallArguments given) {
        return delete(tables, tables.all(entity));
    }

    private Object deleteThese(Tables tables, CallArguments given) {
        return delete(tables, stream(given.get(0, Iterable.class)));
    }

    private Object delete(Tables tables, Stream<?> objects) {
        return objects.toList().stream()
                .filter(object -> tables.deleteUnread(entity, tables.keyOf(object)))
                .count();
    }

    private Object deleteByIds(Tables tables, CallArguments given) {
        return stream(given.get(0, Iterable.class))
                .filter(id -> tables.deleteUnread(entity, tables.keyOf(entity, id)))
                .count();
    }

    private static Stream<Object> stream(Iterable<?> several) {
        Stream.Builder<Object> all = Stream.builder();
        several.forEach(all::add);
        return all.build();
    }

    /** Of a real repository it is a lazy object, which is looked for when it is used; here at once. */
    private Object reference(Tables tables, CallArguments given) {
        return find(tables, given.get(0))
                .orElseThrow(() -> SpringDataExceptions.notFound(entity, Objects.requireNonNull(given.get(0))));
    }

    /** Returns the objects that the condition of a call holds for, in the order that it asks for. */
    @SuppressWarnings("unchecked")
    private List<Object> matching(Method method, Tables tables, CallArguments given) {
        Comparator<Object> order =
                FluentRows.order(SpringDataQueries.selection(method, given).order());
        if (given.get(0) instanceof Example<?> example) {
            return tables.all((Class<Object>) entity)
                    .filter(new ExampleCondition<>((Example<Object>) example))
                    .sorted(order)
                    .map(tables::managed)
                    .toList();
        }
        Class<?> result = method.getName().equals("count") ? Long.class : entity;
        return CriteriaQueries.find(
                        entity,
                        result,
                        SpringDataSpecifications.condition(method.getParameterTypes()[0], given.get(0)),
                        new Call(tables, given),
                        order)
                .stream()
                .map(tables::managed)
                .toList();
    }

    private Object update(Method method, Tables tables, CallArguments given) {
        Object specification = Objects.requireNonNull(given.get(0), "specification");
        return CriteriaQueries.update(
                entity,
                schema.require(TypeShape.tableOf(entity)),
                SpringDataSpecifications.condition(method.getParameterTypes()[0], specification),
                new Call(tables, given));
    }

    private static Object one(List<Object> found) {
        if (found.size() > 1) {
            throw new IncorrectResultSizeDataAccessException(1, found.size());
        }
        return found;
    }

    @SuppressWarnings("unchecked")
    private @Nullable Object fluent(Method method, Tables tables, CallArguments given) {
        Function<Object, @Nullable Object> how = Objects.requireNonNull(given.get(1, Function.class));
        Class<?> asked =
                ResolvableType.forMethodParameter(method, 1).getGeneric(0).resolve();
        Class<?> face = asked == null ? FluentQuery.FetchableFluentQuery.class : asked;
        return how.apply(FluentRows.of(face, matching(method, tables, given)));
    }

    static boolean isLazy(Method method) {
        return LAZY.contains(method.getName())
                && method.getDeclaringClass().getName().startsWith("org.springframework.data.");
    }

    /** As {@code @Modifying(clearAutomatically = true)} says it. */
    static boolean isClearing(Method method) {
        AnnotationAttributes said = AnnotatedElementUtils.getMergedAnnotationAttributes(
                method, "org.springframework.data.jpa.repository.Modifying");
        return said != null && said.getBoolean("clearAutomatically");
    }

    /** Repositories of every kind are; those whose objects are no entities change nothing by themselves. */
    static boolean isManaging(Class<?> type) {
        return Repository.class.isAssignableFrom(type);
    }

    /** As Spring translates what databases throw. */
    static Optional<Throwable> thrown(Class<?> type, ConstraintException refusal) {
        if (!Repository.class.isAssignableFrom(type)) {
            return Optional.empty();
        }
        String message = String.valueOf(refusal.getMessage());
        if (refusal.sqlState().equals(ConstraintException.STALE)) {
            return Optional.of(new OptimisticLockingFailureException(message, refusal));
        }
        return refusal.sqlState().startsWith("23") || refusal.sqlState().startsWith("22")
                ? Optional.of(
                        refusal.sqlState().equals("23505")
                                ? new DataIntegrityViolationException(
                                        message, new DuplicateKeyException(message, refusal))
                                : new DataIntegrityViolationException(message, refusal))
                : Optional.empty();
    }
}
