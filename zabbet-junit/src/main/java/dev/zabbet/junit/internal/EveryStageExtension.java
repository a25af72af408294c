package dev.zabbet.junit.internal;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Databases;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.jdbc.LocalServer;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.junit.Staged;
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
public final class EveryStageExtension implements ClassTemplateInvocationContextProvider {

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
        boolean whole = CounterproofProperty.isSet();
        List<Boolean> counterproofs = new ArrayList<>(List.of(whole));
        if (!whole && CounterproofExtension.isAsked(testClass)) {
            counterproofs.add(true);
        }
        return places(every, testClass).stream().flatMap(place -> counterproofs.stream()
                .map(counterproof -> run(place, counterproof, every, testClass, left)));
    }

    private static ClassTemplateInvocationContext run(
            String place, boolean counterproof, EveryStage every, Class<?> testClass, LeftBehind left) {
        String name = nameOf(place);
        return new ClassTemplateInvocationContext() {
            @Override
            public String getDisplayName(int invocationIndex) {
                return counterproof ? name + ", counterproof" : name;
            }

            @Override
            public List<Extension> getAdditionalExtensions() {
                PlaceExtension at = new PlaceExtension(
                        name,
                        () -> new ClassStage(open(place, every, testClass), false, every.load(), every.expect()),
                        left);
                return counterproof && CounterproofExtension.isAsked(testClass)
                        ? List.of(new CounterproofExtension.Beginning(), at)
                        : List.of(at);
            }
        };
    }

    /** What ZABBET_STAGES lists takes the place of all that is said in the code. */
    private static List<String> places(EveryStage every, Class<?> testClass) {
        List<String> instead = words("ZABBET_STAGES");
        if (!instead.isEmpty()) {
            return instead;
        }
        if (every.on().length > 0) {
            return Stream.of(every.on())
                    .flatMap(place -> Stream.of(Environment.filled(place, what -> wrong(testClass, what))
                            .strip()
                            .split("\\s+")))
                    .toList();
        }
        List<String> places = new ArrayList<>(List.of("memory", "h2"));
        places.addAll(words("ZABBET_DATABASES"));
        return places;
    }

    private static List<String> words(String name) {
        return Environment.get(name)
                .filter(words -> !words.isBlank())
                .map(words -> List.of(words.strip().split("\\s+")))
                .orElse(List.of());
    }

    private static Stage open(String place, EveryStage every, Class<?> testClass) {
        Stage stage;
        if (place.equals("memory")) {
            try (Stage h2 = open("h2", every, testClass)) {
                stage = Memory.stage(h2.schema());
            }
        } else if (place.equals("h2")) {
            stage = every.sql().isEmpty()
                    ? Jdbc.embedded(Scripts.of(every.value(), "jdbc:h2:", testClass), testClass)
                    : Jdbc.embeddedSql(every.sql());
        } else {
            String url = Scripts.server(place).orElse(place);
            if (!url.startsWith("jdbc:") && !LocalServer.isMeantBy(url)) {
                throw wrong(
                        testClass,
                        "names '" + url + "', which is neither memory, h2, postgres, mariadb nor a JDBC URL");
            }
            Databases databases = every.sql().isEmpty()
                    ? Databases.beside(
                            url,
                            Environment.user(),
                            Environment.password(),
                            Scripts.of(every.value(), url, testClass),
                            testClass)
                    : Databases.besideSql(url, Environment.user(), Environment.password(), every.sql());
            stage = databases.stage();
        }
        return every.variation() == Staged.AS_PROPERTY ? stage : stage.inVariation(every.variation());
    }

    static String nameOf(String place) {
        String name = place.startsWith("jdbc:") ? place.replaceFirst("jdbc:([^:]*):.*", "$1") : place;
        return switch (name.toLowerCase(Locale.ROOT)) {
            case "memory" -> "in memory";
            case "h2" -> "on H2";
            case "postgresql", "postgres", "postgres:" -> "on PostgreSQL";
            case "mariadb", "mariadb:", "mysql" -> "on MariaDB";
            case "sqlite" -> "on SQLite";
            default -> "on " + name;
        };
    }

    private static ZabbetException wrong(Class<?> testClass, String what) {
        return new ZabbetException("@EveryStage on " + testClass.getName() + " " + what + ".");
    }
}
