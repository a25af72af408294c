package dev.zabbet.spring.internal.context;

import dev.zabbet.factory.PayloadForm;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.context.ApplicationContext;
import org.springframework.util.ClassUtils;

/** How an application context reads JSON: by its ObjectMapper, of Jackson 2 or 3. */
final class ContextPayloads {
    private static final boolean JACKSON_2 = isPresent("com.fasterxml.jackson.databind.ObjectMapper");
    private static final boolean JACKSON_3 = isPresent("tools.jackson.databind.ObjectMapper");

    private ContextPayloads() {}

    private static boolean isPresent(String type) {
        return ClassUtils.isPresent(type, ContextPayloads.class.getClassLoader());
    }

    /** Finds how a context reads JSON; empty if it has no mapper, or none of several is primary. */
    static Optional<PayloadForm> of(ApplicationContext context) {
        if (JACKSON_3) {
            Optional<PayloadForm> newer = Newer.of(context);
            if (newer.isPresent()) {
                return newer;
            }
        }
        return JACKSON_2 ? Older.of(context) : Optional.empty();
    }

    /** Touched only where Jackson 2 is there. */
    private record Older(com.fasterxml.jackson.databind.ObjectMapper mapper) implements PayloadForm {
        static Optional<PayloadForm> of(ApplicationContext context) {
            return Optional.ofNullable(context.getBeanProvider(com.fasterxml.jackson.databind.ObjectMapper.class)
                            .getIfUnique())
                    .map(Older::new);
        }

        @Override
        public Optional<String> name(Class<?> type, String property) {
            return mapper.getDeserializationConfig().introspect(mapper.constructType(type)).findProperties().stream()
                    .filter(one -> one.getInternalName().equals(property))
                    .map(com.fasterxml.jackson.databind.introspect.BeanPropertyDefinition::getName)
                    .findFirst();
        }

        @Override
        public String name(String name) {
            var strategy = mapper.getPropertyNamingStrategy();
            return strategy == null ? name : strategy.nameForField(mapper.getDeserializationConfig(), null, name);
        }

        @Override
        public @Nullable Object value(@Nullable Object value) {
            return mapper.convertValue(value, Object.class);
        }
    }

    /** Touched only where Jackson 3 is there. */
    private record Newer(tools.jackson.databind.ObjectMapper mapper) implements PayloadForm {
        static Optional<PayloadForm> of(ApplicationContext context) {
            return Optional.ofNullable(context.getBeanProvider(tools.jackson.databind.ObjectMapper.class)
                            .getIfUnique())
                    .map(Newer::new);
        }

        @Override
        public Optional<String> name(Class<?> type, String property) {
            var introspector = mapper.deserializationConfig().classIntrospectorInstance();
            var known = mapper.constructType(type);
            return introspector
                    .introspectForDeserialization(known, introspector.introspectClassAnnotations(known))
                    .findProperties()
                    .stream()
                    .filter(one -> one.getInternalName().equals(property))
                    .map(tools.jackson.databind.introspect.BeanPropertyDefinition::getName)
                    .findFirst();
        }

        @Override
        public String name(String name) {
            var strategy = mapper.deserializationConfig().getPropertyNamingStrategy();
            return strategy == null ? name : strategy.nameForField(mapper.deserializationConfig(), null, name);
        }

        @Override
        public @Nullable Object value(@Nullable Object value) {
            return mapper.convertValue(value, Object.class);
        }
    }
}
