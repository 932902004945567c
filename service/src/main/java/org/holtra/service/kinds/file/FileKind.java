package org.holtra.service.kinds.file;

import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.stereotype.Component;

/** The kind {@code file}: messages are read from the files of a folder, and deliveries are appended to files. */
@Component
class FileKind implements SourceKind, OutletKind, AutoCloseable {

    private final FileRoot root;
    private final String node;
    private final InstantSource clock;
    private final ScheduledExecutorService rolling = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("file-rolling").factory());

    FileKind(HoltraSettings settings, InstantSource clock) {
        this.root = new FileRoot(settings.filesFolder());
        this.node = settings.node();
        this.clock = clock;
    }

    @Override
    public String name() {
        return "file";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.of(ClassPathText.beside(FileKind.class, "inlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(FileKind.class, "presets.json");
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(FileKind.class, "outlet.form.json"));
    }

    @Override
    public Placement placement(Inlet inlet) {
        return Placement.ONE_NODE;
    }

    @Override
    public String address(Inlet inlet) {
        return inlet.at().get("folder") + "/" + FileSource.pattern(inlet);
    }

    @Override
    public List<CheckStep> check(Inlet inlet, Credential credential) {
        return new FileCheck(root).inlet(inlet);
    }

    @Override
    public Source open(SourceContext context) {
        return FileSource.start(context, root);
    }

    @Override
    public String address(Outlet outlet) {
        return outlet.to().get("folder") + "/" + outlet.to().get("file");
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        return new FileCheck(root).outlet(String.valueOf(outlet.to().get("folder")));
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        return FileSink.open(outlet, root, new FileSink.Surroundings(node, clock, rolling));
    }

    @Override
    public void close() {
        rolling.shutdownNow();
    }
}
