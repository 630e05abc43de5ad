pub(crate) fn bench() -> anyhow::Result<()> {
    Ok(())
}
