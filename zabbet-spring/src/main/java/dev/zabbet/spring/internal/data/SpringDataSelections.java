package dev.zabbet.spring.internal.data;

import dev.zabbet.internal.fake.FakeSupport.Place;
import dev.zabbet.internal.fake.FakeSupport.Selection;
import dev.zabbet.internal.fake.FakeSupport.SelectionForm;
import dev.zabbet.internal.fake.FakeSupport.SortBy;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.data.domain.KeysetScrollPosition;
import org.springframework.data.domain.Limit;
import org.springframework.data.domain.OffsetScrollPosition;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.ScrollPosition;
import org.springframework.data.domain.Sort;

/** The arguments by which Spring Data's methods are asked for a part of the rows. */
final class SpringDataSelections {
    private SpringDataSelections() {}

    static Optional<SelectionForm> form(Class<?> parameter) {
        if (Pageable.class.isAssignableFrom(parameter)) {
            return Optional.of(argument -> ofPage((Pageable) argument));
        }
        if (Sort.class.isAssignableFrom(parameter)) {
            return Optional.of(argument -> new Selection(0, Long.MAX_VALUE, order((Sort) argument), null));
        }
        if (parameter == Limit.class) {
            return Optional.of(argument -> new Selection(0, limit((Limit) argument), List.of(), null));
        }
        return ScrollPosition.class.isAssignableFrom(parameter)
                ? Optional.of(argument -> ofPosition((ScrollPosition) argument))
                : Optional.empty();
    }

    private static Selection ofPage(Pageable page) {
        List<SortBy> order = order(page.getSort());
        return page.isPaged()
                ? new Selection(page.getOffset(), page.getPageSize(), order, null)
                : new Selection(0, Long.MAX_VALUE, order, null);
    }

    static List<SortBy> order(Sort sort) {
        return sort.stream()
                .map(by -> new SortBy(
                        by.getProperty(), by.isDescending(), by.isIgnoreCase(), nullsFirst(by.getNullHandling())))
                .toList();
    }

    private static @Nullable Boolean nullsFirst(Sort.NullHandling handling) {
        return handling == Sort.NullHandling.NATIVE ? null : (Boolean) (handling == Sort.NullHandling.NULLS_FIRST);
    }

    private static long limit(Limit limit) {
        return limit.isLimited() ? limit.max() : Long.MAX_VALUE;
    }

    private static Selection ofPosition(ScrollPosition position) {
        if (position instanceof KeysetScrollPosition keys) {
            return new Selection(0, Long.MAX_VALUE, List.of(), new Place(keys.getKeys(), keys.scrollsBackward()));
        }
        OffsetScrollPosition offset = (OffsetScrollPosition) position;
        return new Selection(offset.isInitial() ? 0 : offset.getOffset() + 1, Long.MAX_VALUE, List.of(), null);
    }

    /** Returns the part of a call's arguments that pages and sorts; unpaged without one. */
    static Pageable pageable(List<@Nullable Object> arguments) {
        Pageable page = find(arguments, Pageable.class);
        Sort sort = find(arguments, Sort.class);
        if (page != null) {
            return page;
        }
        return sort == null ? Pageable.unpaged() : Pageable.unpaged(sort);
    }

    static <T> @Nullable T find(List<@Nullable Object> arguments, Class<T> type) {
        return arguments.stream()
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst()
                .orElse(null);
    }
}
