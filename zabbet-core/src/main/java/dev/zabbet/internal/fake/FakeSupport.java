package dev.zabbet.internal.fake;

import dev.zabbet.fake.Definition;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What fakes know of a framework's own interfaces: methods that its names do not explain, the types in which it hands out a
 * part of the rows, and what it throws. Found by {@link java.util.ServiceLoader}; asked when a fake is made, and by any thread.
 */
public interface FakeSupport {

    /**
     * Says what a method does that an interface of the application has from the framework.
     *
     * @param entity the type of objects that the interface is about
     * @param schema the tables that there are
     * @return what it does; empty if that is not known, and its name counts
     * @throws UnsupportedOperationException if the framework would do something that is not known here; its message says what,
     *     as a clause
     */
    default Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        return Optional.empty();
    }

    /**
     * Tells whether an interface hands out managed objects: those that were read in a method under an annotation named
     * Transactional, and changed, are stored when it ends, without a call. Such an interface is no unit of work itself.
     */
    default boolean isManaging(Class<?> type) {
        return false;
    }

    /** Tells whether a method hands out objects that are read when they are used first, whether there are any or not. */
    default boolean isLazy(Method method) {
        return false;
    }

    /** Tells whether a method detaches all managed objects, so that they are read again. */
    default boolean isClearing(Method method) {
        return false;
    }

    /** Says how an argument of a type selects rows by their place; empty if the type is none of the framework's. */
    default Optional<SelectionForm> selection(Class<?> parameter) {
        return Optional.empty();
    }

    /** Says how a part of the rows is handed out as a type; empty if the type is none of the framework's. */
    default Optional<PartForm> part(Class<?> result) {
        return Optional.empty();
    }

    /**
     * Says what the framework throws where a constraint refuses a row; empty for what is thrown without it.
     *
     * @param type the interface of the application
     * @param refusal why the row was refused; its SQLState is {@link ConstraintException#STALE} if another has changed the row
     *     since the object was read
     */
    default Optional<Throwable> thrown(Class<?> type, ConstraintException refusal) {
        return Optional.empty();
    }

    /** Makes an object of a part of the rows. */
    @FunctionalInterface
    interface PartForm {
        /** Makes it; the elements are objects in their order. */
        Object of(List<@Nullable Object> elements, Part part);
    }

    /**
     * Which part of the rows it is.
     *
     * @param total how many rows there are in all
     * @param offset how many of them come before
     * @param limit how many were asked for at most; {@link Long#MAX_VALUE} for all
     * @param order the order they are in
     * @param arguments those of the call
     */
    record Part(long total, long offset, long limit, List<SortBy> order, List<@Nullable Object> arguments) {}

    /** Reads from an argument which rows are wanted. */
    @FunctionalInterface
    interface SelectionForm {
        /** Reads it; the argument is never null. */
        Selection of(Object argument);
    }

    /**
     * Which of the rows found are wanted, and in which order.
     *
     * @param offset how many are passed over
     * @param limit how many are wanted at most; {@link Long#MAX_VALUE} for all
     * @param order by which properties they are ordered, behind those that the method's name says
     * @param place the place that the rows wanted come behind or before; null if it does not depend on values
     */
    record Selection(
            long offset,
            long limit,
            List<SortBy> order,
            @Nullable Place place) {}

    /**
     * A place among rows in their order.
     *
     * @param values the values of the row that is known already, by the properties of the order; empty for the beginning, and
     *     for the end if it is one that rows come before
     * @param before whether the rows that come before it are wanted, the nearest of them if there is a limit, and not those behind
     */
    record Place(Map<String, Object> values, boolean before) {}

    /**
     * A property to order by.
     *
     * @param property its name or its path along relations
     * @param ignoreCase whether capital letters are ordered like small ones
     * @param nullsFirst whether what is null comes first; null if that is left to the database, which is PostgreSQL here: null is
     *     greater than all else
     */
    record SortBy(
            String property,
            boolean descending,
            boolean ignoreCase,
            @Nullable Boolean nullsFirst) {
        /** Leaves to the database where what is null comes. */
        public SortBy(String property, boolean descending, boolean ignoreCase) {
            this(property, descending, ignoreCase, null);
        }

        /**
         * Returns the order of values that it means.
         *
         * @param rising the rising order of values that are there
         */
        public Comparator<@Nullable Object> order(Comparator<Object> rising) {
            Comparator<Object> order = descending ? rising.reversed() : rising;
            boolean first = nullsFirst == null ? descending : nullsFirst;
            return first ? Comparator.nullsFirst(order) : Comparator.nullsLast(order);
        }
    }
}
