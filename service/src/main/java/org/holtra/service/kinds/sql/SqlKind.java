package org.holtra.service.kinds.sql;

import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.LoginForm;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.stereotype.Component;

/** The kind {@code sql}: rows are written into a table of a database. */
@Component
class SqlKind implements OutletKind {

    private final Databases databases;
    private final InstantSource clock;

    SqlKind(HoltraSettings settings, InstantSource clock) {
        this.databases = new Databases(settings.outletsReach());
        this.clock = clock;
    }

    @Override
    public String name() {
        return "sql";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.empty();
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(SqlKind.class, "outlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(SqlKind.class, "presets.json");
    }

    @Override
    public Set<String> outletCredentials() {
        return Set.of(LoginForm.WORD);
    }

    @Override
    public String address(Outlet outlet) {
        return outlet.to().get("address") + ", table " + outlet.to().get("table");
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        return check(outlet, credential, List.of());
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential, List<Content> samples) {
        return new SqlCheck(SqlTarget.of(outlet), credential, databases, samples).run();
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        return new SqlSink(outlet, credential, databases, clock);
    }
}
