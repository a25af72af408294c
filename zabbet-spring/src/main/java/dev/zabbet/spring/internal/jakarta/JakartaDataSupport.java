package dev.zabbet.spring.internal.jakarta;

import dev.zabbet.fake.Definition;
import dev.zabbet.internal.fake.FakeSupport;
import dev.zabbet.schema.Schema;
import java.lang.reflect.Method;
import java.util.Optional;
import org.springframework.util.ClassUtils;

/** Lets fakes of Jakarta Data's repositories do what the real ones do beyond what names say. */
public final class JakartaDataSupport implements FakeSupport {
    private static final boolean PRESENT =
            ClassUtils.isPresent("jakarta.data.repository.Repository", JakartaDataSupport.class.getClassLoader());

    @Override
    public Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        return PRESENT ? JakartaDataMethods.definition(method, entity, schema) : Optional.empty();
    }

    @Override
    public Optional<SelectionForm> selection(Class<?> parameter) {
        return PRESENT ? JakartaDataMethods.selection(parameter) : Optional.empty();
    }

    @Override
    public Optional<PartForm> part(Class<?> result) {
        return PRESENT ? JakartaDataMethods.part(result) : Optional.empty();
    }
}
