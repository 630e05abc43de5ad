/** The schools that disagree, each with the cases it fits. */
export function Schools() {
  return (
    <details className="mt-4 max-w-3xl">
      <summary className="min-h-11 py-2 font-semibold">Two schools each, and when each fits</summary>
      <dl className="grid gap-x-8 gap-y-3 sm:grid-cols-2 [&_dt]:font-semibold">
        <div>
          <dt>Omni or small antenna</dt>
          <dd>
            Several masts around, no way to the roof, a gateway that may pick any cell, little fiddling. It
            lifts the other masts along with yours: where other cells are what limits, it brings signal and no
            speed.
          </dd>
        </div>
        <div>
          <dt>Directional antenna</dt>
          <dd>
            One mast that matters, far away or among noisy ones. It must be aimed, and it looks past a second
            mast that could have served as well.
          </dd>
        </div>
        <div>
          <dt>Indoor gateway with coaxial cable</dt>
          <dd>
            Short ways, a gateway you have already, antennas to be changed later. The cable eats signal by the
            metre, and the upload pays for it in full.
          </dd>
        </div>
        <div>
          <dt>Outdoor unit with Ethernet</dt>
          <dd>
            Long ways: no signal is lost on the way in, up to 100 m. Needs power over the cable, a router
            indoors, and a climb when it fails. Its antenna cannot be changed.
          </dd>
        </div>
      </dl>
    </details>
  );
}
