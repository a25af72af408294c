package dev.zabbet.spring.internal.data;

import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.springframework.data.domain.Example;
import org.springframework.data.domain.ExampleMatcher;
import org.springframework.data.domain.ExampleMatcher.PropertySpecifier;
import org.springframework.data.domain.ExampleMatcher.StringMatcher;
import org.springframework.data.support.ExampleMatcherAccessor;

/** Tells which objects are like an example, as Spring Data's documentation on "Query by Example" says it. */
final class ExampleCondition<T> implements Predicate<T> {
    private final T probe;
    private final ExampleMatcher matcher;
    private final ExampleMatcherAccessor specifiers;

    ExampleCondition(Example<T> example) {
        this.probe = example.getProbe();
        this.matcher = example.getMatcher();
        this.specifiers = new ExampleMatcherAccessor(matcher);
    }

    @Override
    public boolean test(T object) {
        List<Boolean> parts = new ArrayList<>();
        for (Prop prop : shape(probe).ownProperties()) {
            compare(probe, object, prop.name(), parts);
        }
        return matcher.isAllMatching()
                ? parts.stream().allMatch(part -> part)
                : parts.isEmpty() || parts.stream().anyMatch(part -> part);
    }

    private void compare(Object wanted, @Nullable Object given, String path, List<Boolean> parts) {
        String name = path.substring(path.lastIndexOf('.') + 1);
        Prop prop = shape(wanted).find(name).orElse(null);
        if (prop == null
                || specifiers.isIgnoredPath(path)
                || prop.isRelations()
                || Iterable.class.isAssignableFrom(prop.type())
                || shape(wanted).version().filter(prop::equals).isPresent()) {
            return;
        }
        Object value = shape(wanted).read(wanted, prop);
        Object other = given == null ? null : shape(given).read(given, prop);
        if (value == null) {
            if (specifiers.getNullHandler() == ExampleMatcher.NullHandler.INCLUDE) {
                parts.add(other == null);
            }
            return;
        }
        boolean nested = !prop.type().getName().startsWith("java.")
                && !prop.type().isPrimitive()
                && !prop.type().isEnum();
        if (nested) {
            for (Prop inner : shape(value).ownProperties()) {
                compare(value, other, path + "." + inner.name(), parts);
            }
            return;
        }
        Optional<Object> changed = specifiers.getValueTransformerForPath(path).apply(Optional.of(value));
        if (changed.isPresent()) {
            parts.add(matches(changed.get(), other, path));
        }
    }

    private boolean matches(Object wanted, @Nullable Object given, String path) {
        if (!(wanted instanceof String text)) {
            return wanted.equals(given);
        }
        boolean ignoreCase = specifiers.hasPropertySpecifier(path)
                ? specifiers.isIgnoreCaseForPath(path)
                : matcher.isIgnoreCaseEnabled();
        if (!(given instanceof String other)) {
            return false;
        }
        String sought = ignoreCase ? text.toLowerCase(Locale.ROOT) : text;
        String held = ignoreCase ? other.toLowerCase(Locale.ROOT) : other;
        return switch (stringMatcher(path)) {
            case STARTING -> held.startsWith(sought);
            case ENDING -> held.endsWith(sought);
            case CONTAINING -> held.contains(sought);
            case REGEX ->
                throw new UnsupportedOperationException(
                        "Spring Data JPA knows no regular expressions in an example, and so does a fake.");
            default -> held.equals(sought);
        };
    }

    private StringMatcher stringMatcher(String path) {
        PropertySpecifier specifier =
                specifiers.hasPropertySpecifier(path) ? specifiers.getPropertySpecifier(path) : null;
        return specifier == null || specifier.getStringMatcher() == null
                ? specifiers.getDefaultStringMatcher()
                : specifier.getStringMatcher();
    }

    @SuppressWarnings("unchecked")
    private static TypeShape<Object> shape(Object object) {
        return TypeShape.of((Class<Object>) object.getClass());
    }
}
