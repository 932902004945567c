package org.holtra.service.api;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.intake.InletChecks;
import org.holtra.service.introducing.RightsCheck;
import org.holtra.service.sharing.SharedConnections;
import org.holtra.service.workbench.LaneSamples;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Shows whether an inlet, an outlet or what they share would work, before it is live. */
@RestController
class CheckController {

    /** @param fields of the inlet or outlet as a setup file has them; null for the active one of that name */
    record CheckRequest(Map<String, Object> fields) {}

    private final OutletDrafts drafts;
    private final Dispatcher dispatcher;
    private final InletChecks inlets;
    private final SharedConnections connections;
    private final LaneSamples samples;
    private final RightsCheck rights;

    /** What is looked at besides inlets and outlets. */
    @Component
    record Looked(SharedConnections connections, LaneSamples samples, RightsCheck rights) {}

    CheckController(OutletDrafts drafts, Dispatcher dispatcher, InletChecks inlets, Looked looked) {
        this.connections = looked.connections;
        this.samples = looked.samples;
        this.rights = looked.rights;
        this.drafts = drafts;
        this.dispatcher = dispatcher;
        this.inlets = inlets;
    }

    /**
     * Checks an inlet step by step: what its kind needs, whether it is open, what became of its last message. Takes no
     * message.
     */
    @PostMapping("/api/v1/inlets/{name}/check")
    List<CheckStep> checkInlet(@PathVariable String name, @RequestBody CheckRequest wanted) {
        boolean active = wanted.fields == null;
        return inlets.check(drafts.of("inlet", name, wanted.fields, Setup::inlets), active);
    }

    /** Checks an outlet step by step; ends with the first that fails. Nothing of a message is sent. */
    @PostMapping("/api/v1/outlets/{name}/check")
    List<CheckStep> checkOutlet(@PathVariable String name, @RequestBody CheckRequest wanted) {
        Outlet outlet = drafts.of("outlet", name, wanted.fields, Setup::outlets);
        List<CheckStep> steps = new ArrayList<>(dispatcher.check(outlet, samples.of(name)));
        if (steps.stream().noneMatch(step -> step.result() == CheckStep.Result.FAILED)) {
            steps.addAll(rights.check(outlet));
        }
        return steps;
    }

    /** Checks a shared connection step by step; ends with the first that fails. */
    @PostMapping("/api/v1/connections/{name}/check")
    List<CheckStep> checkConnection(@PathVariable String name, @RequestBody CheckRequest wanted) {
        return connections.check(drafts.of("connection", name, wanted.fields, Setup::connections));
    }
}
