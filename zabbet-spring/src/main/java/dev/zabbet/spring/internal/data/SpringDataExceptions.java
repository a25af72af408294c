package dev.zabbet.spring.internal.data;

import org.springframework.dao.DataRetrievalFailureException;
import org.springframework.util.ClassUtils;

/** What is thrown where an object is looked for that is not there. */
final class SpringDataExceptions {
    private static final boolean PERSISTENCE = ClassUtils.isPresent(
                    "org.springframework.orm.jpa.JpaObjectRetrievalFailureException",
                    SpringDataExceptions.class.getClassLoader())
            && ClassUtils.isPresent(
                    "jakarta.persistence.EntityNotFoundException", SpringDataExceptions.class.getClassLoader());

    private SpringDataExceptions() {}

    static RuntimeException notFound(Class<?> entity, Object id) {
        String message = "Unable to find " + entity.getName() + " with id " + id;
        return PERSISTENCE ? Persistence.notFound(message) : new DataRetrievalFailureException(message);
    }

    /** Touched only where Jakarta Persistence is there. */
    private static final class Persistence {
        static RuntimeException notFound(String message) {
            return new org.springframework.orm.jpa.JpaObjectRetrievalFailureException(
                    new jakarta.persistence.EntityNotFoundException(message));
        }
    }
}
