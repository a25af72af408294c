package dev.zabbet.spring.internal.data;

import dev.zabbet.internal.fake.FakeSupport.Part;
import dev.zabbet.internal.fake.FakeSupport.PartForm;
import dev.zabbet.internal.fake.FakeSupport.SortBy;
import dev.zabbet.spring.internal.query.QueryMethod;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.data.domain.KeysetScrollPosition;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageImpl;
import org.springframework.data.domain.ScrollPosition;
import org.springframework.data.domain.Slice;
import org.springframework.data.domain.SliceImpl;
import org.springframework.data.domain.Window;
import org.springframework.data.util.Streamable;

/** The types in which Spring Data hands out a part of the rows. */
final class SpringDataParts {
    private SpringDataParts() {}

    static Optional<PartForm> form(Class<?> result) {
        if (result == Page.class) {
            return Optional.of((elements, part) ->
                    new PageImpl<>(elements, SpringDataSelections.pageable(part.arguments()), part.total()));
        }
        if (result == Slice.class) {
            return Optional.of((elements, part) -> new SliceImpl<>(
                    elements, SpringDataSelections.pageable(part.arguments()), hasMore(elements, part)));
        }
        if (result == Window.class) {
            return Optional.of(SpringDataParts::window);
        }
        return result == Streamable.class ? Optional.of((elements, part) -> Streamable.of(elements)) : Optional.empty();
    }

    private static boolean hasMore(List<@Nullable Object> elements, Part part) {
        return part.offset() + elements.size() < part.total();
    }

    private static Object window(List<@Nullable Object> elements, Part part) {
        ScrollPosition position = SpringDataSelections.find(part.arguments(), ScrollPosition.class);
        return Window.from(
                elements,
                i -> position instanceof KeysetScrollPosition keyset
                        ? beside(Objects.requireNonNull(elements.get(i)), part, keyset.getDirection())
                        : ScrollPosition.offset(part.offset() + i),
                hasMore(elements, part));
    }

    private static ScrollPosition beside(Object element, Part part, ScrollPosition.Direction direction) {
        Map<String, Object> keys = new LinkedHashMap<>();
        for (SortBy by : part.order()) {
            keys.put(by.property(), Objects.requireNonNull(QueryMethod.read(element, by.property())));
        }
        return ScrollPosition.of(keys, direction);
    }
}
