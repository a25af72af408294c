package dev.zabbet.junit;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Databases;
import dev.zabbet.jdbc.Jdbc;
import java.net.URL;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.junit.jupiter.api.extension.ClassTemplateInvocationContext;
import org.junit.jupiter.api.extension.ClassTemplateInvocationContextProvider;
import org.junit.jupiter.api.extension.Extension;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.platform.commons.support.AnnotationSupport;

/** Opens the stages that {@link EveryStage} names, each for one run of the class. */
final class EveryStageExtension implements ClassTemplateInvocationContextProvider {

    @Override
    public boolean supportsClassTemplate(ExtensionContext context) {
        return AnnotationSupport.isAnnotated(context.getRequiredTestClass(), EveryStage.class);
    }

    @Override
    public Stream<ClassTemplateInvocationContext> provideClassTemplateInvocationContexts(ExtensionContext context) {
        Class<?> testClass = context.getRequiredTestClass();
        EveryStage every =
                AnnotationSupport.findAnnotation(testClass, EveryStage.class).orElseThrow();
        if (every.value().isEmpty() == every.sql().isEmpty()) {
            throw wrong(testClass, "needs a script, @EveryStage(\"/db/schema.sql\"), or sql, and not both");
        }
        LeftBehind left = new LeftBehind();
        return places(every).stream().map(place -> new ClassTemplateInvocationContext() {
            @Override
            public String getDisplayName(int invocationIndex) {
                return nameOf(place);
            }

            @Override
            public List<Extension> getAdditionalExtensions() {
                return List.of(new PlaceExtension(
                        nameOf(place),
                        () -> new HeldStage(open(place, every, testClass), false, every.load(), every.expect()),
                        left));
            }
        });
    }

    private static List<String> places(EveryStage every) {
        if (every.on().length > 0) {
            return List.of(every.on());
        }
        List<String> places = new ArrayList<>(List.of("memory", "h2"));
        Environment.get("ZABBET_DATABASES")
                .filter(urls -> !urls.isBlank())
                .ifPresent(urls -> places.addAll(List.of(urls.strip().split("\\s+"))));
        return places;
    }

    private static Stage open(String place, EveryStage every, Class<?> testClass) {
        Stage stage;
        if (place.equals("memory")) {
            try (Stage h2 = open("h2", every, testClass)) {
                stage = Memory.stage(h2.schema());
            }
        } else if (place.equals("h2")) {
            stage = every.sql().isEmpty()
                    ? Jdbc.embedded(script(every.value(), "h2", testClass), testClass)
                    : Jdbc.embeddedSql(every.sql());
        } else {
            String url = Environment.filled(place, what -> wrong(testClass, what));
            if (!url.startsWith("jdbc:")) {
                throw wrong(testClass, "names '" + url + "', which is neither memory, h2 nor a JDBC URL");
            }
            String engine = url.replaceFirst("jdbc:([^:]*):.*", "$1");
            Databases databases = every.sql().isEmpty()
                    ? Databases.beside(
                            url,
                            Environment.user(),
                            Environment.password(),
                            script(every.value(), engine, testClass),
                            testClass)
                    : Databases.besideSql(url, Environment.user(), Environment.password(), every.sql());
            stage = databases.stage();
        }
        return every.variation() == 0 ? stage : stage.inVariation(every.variation());
    }

    /** Returns the script of an engine, if there is one beside the other. */
    private static String script(String script, String engine, Class<?> near) {
        String own = script.replaceFirst("(\\.[^./]*)?$", "." + engine + "$1");
        URL resource = near.getResource(own.startsWith("/") ? own : "/" + own);
        return resource != null || Files.exists(Path.of(own)) ? own : script;
    }

    static String nameOf(String place) {
        String name = place.startsWith("jdbc:") ? place.replaceFirst("jdbc:([^:]*):.*", "$1") : place;
        return switch (name.toLowerCase(Locale.ROOT)) {
            case "memory" -> "in memory";
            case "h2" -> "on H2";
            case "postgresql" -> "on PostgreSQL";
            case "mariadb", "mysql" -> "on MariaDB";
            case "sqlite" -> "on SQLite";
            default -> "on " + name.replaceFirst("^\\$\\{([^:}]*).*", "$1");
        };
    }

    private static ZabbetException wrong(Class<?> testClass, String what) {
        return new ZabbetException("@EveryStage on " + testClass.getName() + " " + what + ".");
    }
}
