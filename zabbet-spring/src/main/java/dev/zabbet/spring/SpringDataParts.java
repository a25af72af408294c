package dev.zabbet.spring;

import dev.zabbet.fake.FakeSupport.Part;
import dev.zabbet.fake.FakeSupport.PartForm;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageImpl;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.Slice;
import org.springframework.data.domain.SliceImpl;
import org.springframework.data.util.Streamable;

/** The types in which Spring Data hands out a part of the rows. */
final class SpringDataParts {
    private SpringDataParts() {}

    static Optional<PartForm> form(Class<?> result) {
        if (result == Page.class) {
            return Optional.of((elements, part) -> new PageImpl<>(elements, pageable(part), part.total()));
        }
        if (result == Slice.class) {
            return Optional.of((elements, part) -> new SliceImpl<>(elements, pageable(part), hasMore(elements, part)));
        }
        return result == Streamable.class ? Optional.of((elements, part) -> Streamable.of(elements)) : Optional.empty();
    }

    static Pageable pageable(Part part) {
        return part.arguments().stream()
                .filter(Pageable.class::isInstance)
                .map(Pageable.class::cast)
                .findFirst()
                .orElse(Pageable.unpaged());
    }

    private static boolean hasMore(List<@Nullable Object> elements, Part part) {
        return part.offset() + elements.size() < part.total();
    }
}
