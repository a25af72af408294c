package dev.zabbet.spring;

import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Given;
import dev.zabbet.fake.Tables;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.util.Comparator;
import java.util.List;
import java.util.NoSuchElementException;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.DataIntegrityViolationException;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.dao.IncorrectResultSizeDataAccessException;
import org.springframework.dao.OptimisticLockingFailureException;
import org.springframework.data.domain.Example;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageImpl;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.Sort;
import org.springframework.data.repository.Repository;
import org.springframework.data.repository.query.FluentQuery;

/** The methods of Spring Data's own interfaces whose names do not say what they do, and what repositories throw. */
final class SpringDataMethods {
    private final Class<?> entity;

    private SpringDataMethods(Class<?> entity) {
        this.entity = entity;
    }

    static Optional<Definition> definition(Method method, Class<?> entity) {
        if (!method.getDeclaringClass().getName().startsWith("org.springframework.data.")) {
            return JpqlQuery.definition(method, entity);
        }
        return Optional.ofNullable(new SpringDataMethods(entity).definition(method));
    }

    private @Nullable Definition definition(Method method) {
        List<Class<?>> parameters = List.of(method.getParameterTypes());
        boolean byExample = !parameters.isEmpty() && parameters.get(0) == Example.class;
        return switch (method.getName()) {
            case "deleteAllInBatch" -> parameters.isEmpty() ? this::deleteAll : this::deleteThese;
            case "deleteInBatch" -> this::deleteThese;
            case "deleteAllByIdInBatch" -> this::deleteByIds;
            case "getReferenceById", "getById", "getOne" -> this::reference;
            case "count" ->
                byExample ? (tables, given) -> matching(tables, given).count() : null;
            case "exists" ->
                byExample ? (tables, given) -> matching(tables, given).findAny().isPresent() : null;
            case "findOne" -> byExample ? this::one : null;
            case "findAll" -> byExample ? this::all : null;
            case "findBy" -> byExample ? (tables, given) -> unknown(method) : null;
            default -> null;
        };
    }

    private Object deleteAll(Tables tables, Given given) {
        return delete(tables, tables.all(entity));
    }

    private Object deleteThese(Tables tables, Given given) {
        return delete(tables, stream(given.get(0, Iterable.class)));
    }

    private Object delete(Tables tables, Stream<?> objects) {
        return objects.toList().stream()
                .filter(object -> tables.delete(TypeShape.tableOf(entity), key(object)))
                .count();
    }

    private Object deleteByIds(Tables tables, Given given) {
        return stream(given.get(0, Iterable.class))
                .filter(id -> tables.delete(TypeShape.tableOf(entity), id))
                .count();
    }

    private static Stream<Object> stream(Iterable<?> several) {
        Stream.Builder<Object> all = Stream.builder();
        several.forEach(all::add);
        return all.build();
    }

    /** Of a real repository it is a lazy object, which is looked for when it is used; here at once. */
    private Object reference(Tables tables, Given given) {
        Object id = Objects.requireNonNull(given.get(0), "id");
        return tables.find(TypeShape.tableOf(entity), id).orElseThrow(() -> SpringDataExceptions.notFound(entity, id));
    }

    @SuppressWarnings("unchecked")
    private Object key(Object object) {
        TypeShape<Object> shape = TypeShape.of((Class<Object>) object.getClass());
        return shape.identifier()
                .map(prop -> shape.readStored(object, prop))
                .orElseThrow(() -> new NoSuchElementException(entity.getSimpleName() + " has no key"));
    }

    @SuppressWarnings("unchecked")
    private Stream<Object> matching(Tables tables, Given given) {
        ExampleCondition<Object> like = new ExampleCondition<>((Example<Object>) given.get(0, Example.class));
        return tables.all((Class<Object>) entity).filter(like);
    }

    private Object one(Tables tables, Given given) {
        List<Object> found = matching(tables, given).toList();
        if (found.size() > 1) {
            throw new IncorrectResultSizeDataAccessException(1, found.size());
        }
        return found;
    }

    private Object all(Tables tables, Given given) {
        Object second = given.size() > 1 ? given.get(1) : null;
        Pageable page = second instanceof Pageable pageable ? pageable : Pageable.unpaged();
        Sort sort = second instanceof Sort by ? by : page.getSort();
        List<Object> found = matching(tables, given).sorted(order(sort)).toList();
        if (!(second instanceof Pageable)) {
            return found;
        }
        Stream<Object> part =
                page.isPaged() ? found.stream().skip(page.getOffset()).limit(page.getPageSize()) : found.stream();
        Page<Object> answer = new PageImpl<>(part.toList(), page, found.size());
        return answer;
    }

    @SuppressWarnings("unchecked")
    private Comparator<Object> order(Sort sort) {
        Comparator<Object> order = (a, b) -> 0;
        for (Sort.Order by : sort) {
            Function<Object, @Nullable Comparable<Object>> value =
                    object -> (Comparable<Object>) ExampleCondition.value(object, by.getProperty());
            Comparator<Object> one = Comparator.comparing(value, Comparator.nullsFirst(Comparator.naturalOrder()));
            order = order.thenComparing(by.isAscending() ? one : one.reversed());
        }
        return order;
    }

    private Object unknown(Method method) {
        throw new UnsupportedOperationException(method.getName() + "(Example, Function) is not known to a fake, whose "
                + FluentQuery.class.getSimpleName()
                + " would have to be worked out. Call another method, or say what it does:"
                + " stage.define(…).");
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
