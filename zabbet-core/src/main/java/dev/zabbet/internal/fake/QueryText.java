package dev.zabbet.internal.fake;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;

/** Finds the query that an annotation of a method holds: then that says what the method does, and not its name. */
final class QueryText {
    private static final int SHOWN = 60;
    private static final Pattern NAME = Pattern.compile(".*(Query|Sql|SQL).*");
    private static final Pattern TEXT = Pattern.compile(
            "(?is)\\s*\\(?\\s*(select|from|insert|update|delete|merge|replace|with|values|call|exec|execute)\\s+\\S.*");

    private QueryText() {}

    /** Returns {@code "@Query 'select s from Stay s'"}; empty if there is none. */
    static Optional<String> of(Method method) {
        for (Annotation annotation : method.getAnnotations()) {
            boolean named =
                    NAME.matcher(annotation.annotationType().getSimpleName()).matches();
            for (String text : texts(annotation)) {
                if (TEXT.matcher(text).matches() || (named && !text.isBlank())) {
                    return Optional.of("@" + annotation.annotationType().getSimpleName() + " "
                            + Text.of(Words.cut(text.strip().replaceAll("\\s+", " "), SHOWN)));
                }
            }
        }
        return Optional.empty();
    }

    private static List<String> texts(Annotation annotation) {
        List<String> texts = new ArrayList<>();
        for (Method attribute : annotation.annotationType().getDeclaredMethods()) {
            boolean text = attribute.getReturnType() == String.class || attribute.getReturnType() == String[].class;
            if (!text || attribute.getParameterCount() > 0) {
                continue;
            }
            try {
                attribute.setAccessible(true);
                Object value = attribute.invoke(annotation);
                texts.addAll(value instanceof String[] several ? List.of(several) : List.of(String.valueOf(value)));
            } catch (ReflectiveOperationException | RuntimeException e) {
                // an attribute that cannot be read says nothing
            }
        }
        return texts;
    }
}
